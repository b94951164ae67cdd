import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { beginFeatures } from '~/shell/features'
import { useCommands } from '../commands'
import { useSettings } from '../settings'
import { readSettings } from '../settings-schema'
import { testEditor } from '../test-editor'
import { isChord } from './chord'
import { clashesOf, isKeptByBrowser } from './clashes'
import { useKeys } from './keys'
import { readKeys, readKeysFile, writeKeys } from './keys-file'
import type { KeyUse, StageUse } from './stage-uses'
import { AXES_WRITTEN } from '~~/core/units/height'
import { lockOf, STAGE_USES } from './stage-uses'
import { keyDown } from './test-keys'

function start() {
  testEditor([{ name: 'Crate' }])
  beginFeatures()
  return { keys: useKeys(), commands: useCommands(), settings: useSettings() }
}

const anyKey = fc
  .tuple(
    fc.subarray(['Ctrl', 'Alt', 'Shift']),
    fc.constantFrom(...'abcxyz09[]', 'F2', 'KeyQ', 'Digit4', 'ArrowUp', '+'),
  )
  .map(([modifiers, key]) => [...modifiers, key].join('+'))

describe('keys', () => {
  it('of ours are all ones that can be pressed, none twice where both are heard, none that browsers keep', () => {
    const { keys } = start()
    expect(keys.clashes).toEqual([])
    for (const { name, keys: ours, isFixed } of keys.uses)
      for (const key of ours) {
        expect(isChord(key), `${name}: ${key}`).toBe(true)
        if (!isFixed) expect(isKeptByBrowser(key), `${name}: ${key}`).toBe(false)
      }
  })

  it('stand in texts on paper as ours, and are said as they are set', () => {
    const { keys } = start()
    expect(keys.asSet('Ctrl D')).toBe('Ctrl D')
    keys.assign('Duplicate', ['F9'])
    expect(keys.asSet('Ctrl D')).toBe('F9')
    keys.assign('Duplicate', [])
    expect(keys.asSet('Ctrl D')).toBe('no key')
    // The second key of something is left as long as it is one.
    keys.assign('Redo', ['F8', 'Ctrl+y'])
    expect([keys.asSet('Ctrl Y'), keys.asSet('Ctrl Shift Z')]).toEqual(['Ctrl Y', 'F8'])
    // What means several things, or nothing, is no key of one action.
    keys.assign('Walk through from this view', ['F7'])
    expect([keys.asSet('W'), keys.asSet('1.5 m')]).toEqual(['W', '1.5 m'])
  })

  it('can be others, several or none, are heard as they are set, and are ours again', () => {
    const { keys, commands } = start()
    keys.assign('Undo', ['F9', 'Ctrl+u'])
    expect([keys.labelOf('Undo'), keys.meantAt('page', keyDown('F9'))]).toEqual(['F9', ['Undo']])
    expect(keys.meantAt('page', keyDown('u', 'Control'))).toEqual(['Undo'])
    expect(keys.meantAt('page', keyDown('z', 'Control'))).toEqual([])
    keys.assign('Undo', [])
    expect([keys.labelOf('Undo'), keys.keysOf('Undo')]).toEqual([undefined, []])
    keys.reset('Undo')
    expect(keys.keysOf('Undo')).toEqual(['Ctrl+z'])
    keys.assign('Find or do', ['/'])
    expect(useSettings().kept.keys).toEqual({})
    keys.assign('Find or do', ['f'])
    keys.reset()
    expect(commands.forEvent(keyDown('/'))).toMatchObject({ name: 'Find or do' })
    expect(commands.forEvent(keyDown('f'))).toBeNull()
  })

  it('on the stage follow as well, whatever modifiers a drag needs besides', () => {
    const { keys } = start()
    keys.assign(STAGE_USES.lockX.name, ['x'])
    expect(keys.isStageUse('lockX', 'drag', keyDown('x', 'Control'))).toBe(true)
    expect(keys.isStageUse('lockX', 'page', keyDown('x', 'Control'))).toBe(false)
    expect(keys.clashes).toMatchObject([{ key: 'x', place: 'page' }])
  })

  it('that ask for a modifier go before those that do not, where others may be held', () => {
    const { keys } = start()
    const shifted = { ...keyDown('!', 'Shift'), code: 'Digit1' }
    expect(keys.meantAt('drag', shifted)).toEqual([STAGE_USES.lockOutOfX.name])
    expect(keys.meantAt('drag', { ...keyDown('1', 'Control'), code: 'Digit1' })).toEqual([STAGE_USES.lockX.name])
  })

  it('are said in texts by what they do, with the letters of axes as they are written', () => {
    const { keys } = start()
    expect(keys.said('the [Y] dial, or {Lock out of [Y]}')).toBe('the Y dial, or Shift 2')
    useSettings().kept.height = 'z'
    expect(keys.said('the [Y] dial, or {Lock out of [Y]}')).toBe('the Z dial, or Shift 3')
  })

  it('of the stage lock as they are called', () => {
    const lock = (...uses: StageUse[]) => uses.map(use => lockOf(asked => asked === use, AXES_WRITTEN.y))
    expect(lock('lockX', 'lockY', 'lockZ')).toEqual([0, 1, 2].map(axis => ({ kind: 'axis', axis })))
    expect(lock('lockOutOfX', 'lockOutOfY', 'lockOutOfZ')).toEqual([0, 1, 2].map(axis => ({ kind: 'plane', axis })))
    expect(lock('unlock', 'keep')).toEqual([{ kind: 'view' }, null])
  })

  it('say what else has a key where both are heard, and nothing of where they are not', () => {
    const { keys } = start()
    expect(keys.othersWith('Undo', 'l').map(({ name }) => name)).toEqual(['Look at what is picked'])
    expect(keys.othersWith('Undo', 'KeyL').map(({ name }) => name)).toEqual(['Look at what is picked'])
    expect(keys.othersWith(STAGE_USES.crouch.name, 'l')).toEqual([])
    expect(keys.othersWith('Undo', 'Ctrl+z')).toEqual([])
  })

  it('of one and the same never clash, by letter and by place', () => {
    expect(clashesOf([{ name: 'a', group: '', places: ['page', 'drag'], keys: ['l', 'KeyL', 'l'] }])).toEqual([])
  })

  it('set in any way clash exactly where a plain look at all pairs finds it', () => {
    const places = ['page', 'drag', 'walk'] as const
    const use = fc.record({
      places: fc.subarray([...places], { minLength: 1 }),
      keys: fc.array(anyKey, { maxLength: 3 }),
    })
    fc.assert(
      fc.property(fc.array(use, { maxLength: 8 }), some => {
        const uses = some.map((each, i): KeyUse => ({ ...each, name: `use ${i}`, group: '' }))
        const place = (key: string) => clashesOf([{ name: 'a', group: '', places: ['page'], keys: [key] }])
        expect(uses.flatMap(({ keys }) => keys.flatMap(place))).toEqual([])
        const isOne = new Set(clashesOf(uses).map(({ names }) => names.toSorted().join('/')))
        for (const a of uses)
          for (const b of uses) {
            if (a.name >= b.name) continue
            const meet = places.some(
              at =>
                a.places.includes(at)
                && b.places.includes(at)
                && a.keys.some(key => b.keys.some(other => clashesOf([pair('a', key), pair('b', other)]).length > 0)),
            )
            if (meet && !isOne.has(`${a.name}/${b.name}`))
              // Told of the first that has the key.
              expect([...isOne].some(names => names.includes(a.name) || names.includes(b.name))).toBe(true)
            if (!meet) expect(isOne.has(`${a.name}/${b.name}`)).toBe(false)
          }
      }),
    )
  })

  it('survive the way into a file and back, and into what is kept and back', () => {
    const names = fc.constantFrom('Undo', 'Find or do', STAGE_USES.lockX.name, 'What is not there')
    fc.assert(
      fc.property(
        fc.dictionary(names, fc.array(anyKey, { maxLength: 4 })),
        fc.constantFrom('letter' as const, 'place' as const),
        (keys, by) => {
          expect(readKeys(writeKeys({ by, keys }))).toEqual({ ok: true, set: { by, keys } })
          expect(readSettings(JSON.parse(JSON.stringify({ keys, keysBy: by }))).keys).toEqual(keys)
        },
      ),
    )
  })

  it('from elsewhere are refused with the line, and what is kept and broken is ours', async () => {
    expect(await readKeysFile(new Blob(['x'.repeat(900_000)]))).toMatchObject({ ok: false, error: /too long/ })
    expect(await readKeysFile(new Blob([writeKeys({ by: 'place', keys: {} })]))).toMatchObject({ ok: true })
    expect(readKeys('{\n  "format": "handy-grid keys",\n  oops\n}')).toMatchObject({ ok: false, error: /line 3/ })
    const broken = writeKeys({ by: 'letter', keys: { Undo: ['Hyper+z'] } })
    expect(readKeys(broken)).toEqual({ ok: false, error: 'keys, Undo, 0: is no key (line 6)' })
    expect(readKeys('[]')).toMatchObject({ ok: false })
    expect(readKeys('{"format":"keys of another program"}')).toMatchObject({ ok: false, error: /format/ })
    expect(readKeys('x'.repeat(300_000))).toEqual({ ok: false, error: 'It is too long to be a file of keys.' })
    // One that cannot be read costs no other.
    expect(readSettings({ keys: { 'Undo': 'F9', 'Redo': ['F8'], 'Find or do': ['Hyper+z'] } }).keys).toEqual({
      Redo: ['F8'],
    })
    expect(readSettings({ keys: { Undo: 'F9' }, keysBy: 'colour' })).toMatchObject({ keys: {}, keysBy: 'letter' })
  })
})

const pair = (name: string, key: string): KeyUse => ({ name, group: '', places: ['page'], keys: [key] })
