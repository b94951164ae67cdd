import fc from 'fast-check'
import { beforeEach, describe, expect, it } from 'vitest'
import { testEditor } from '../test-editor'
import { useLevel } from '../level'
import { useSettings } from '../settings'
import { MOST_PRESETS, readSettings } from '../settings-schema'
import { AXES_WRITTEN } from '~~/core/units/height'
import { differing, pathInWords } from './differing'
import type { Kept } from './presets'
import { usePresets } from './presets'

describe('what differs from a preset', () => {
  it('is said by the ways to it, in words', () => {
    const kept = { rule: { count: 5, along: [0, 0, 1.5], spanAround: false }, vary: { seed: 1 } }
    const now = { rule: { count: 8, along: [0, 0, 2], spanAround: false }, vary: { seed: 1 }, more: null }
    expect(differing(kept, now)).toEqual(['more', 'rule/along/2', 'rule/count'])
    expect(differing(kept, now).map(path => pathInWords(path, AXES_WRITTEN.y))).toEqual(['more', 'along Z', 'count'])
    expect(pathInWords('own/spanAround', AXES_WRITTEN.y)).toBe('span around')
    expect(pathInWords('mix/0/weight', AXES_WRITTEN.y)).toBe('mix, weight')
  })

  it('is nothing for what is the same, and something for whatever is not, however it is nested', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 5 }), fc.jsonValue({ maxDepth: 5 }), (a, b) => {
        const [first, second] = [{ of: a }, { of: b }]
        expect(differing(first, structuredClone(first))).toEqual([])
        const flat = (value: unknown) => JSON.stringify(value)
        if (differing(first, second).length > 0) expect(flat(first)).not.toBe(flat(second))
      }),
    )
    expect(differing({ a: 0 }, { a: -0 })).toEqual(['a'])
  })
})

describe('presets', () => {
  beforeEach(() => void testEditor([{ name: 'Crate' }]))
  const named = (all: readonly Kept[]) => all.map(({ name, of }) => `${of} ${name}`)

  it('are kept with oneself or with the level, replaced by name, moved over and deleted', async () => {
    const [presets, level, { kept }] = [usePresets(), useLevel(), useSettings()]
    expect(await presets.keep('line', 'Long', { count: 12 }, 'me')).toBeNull()
    expect(await presets.keep('line', 'Shared', { count: 3 }, 'level')).toBeNull()
    expect(await presets.keep('ring', 'Round', { radius: 3 }, 'me')).toBeNull()
    const ours: Kept[] = [{ form: 'line', name: 'Steps', values: {}, picture: null, of: 'us' }]
    expect(named(presets.allOf('line', ours))).toEqual(['us Steps', 'me Long', 'level Shared'])
    expect(presets.chosen).toEqual({ line: expect.stringMatching(/^level /) as string, ring: 'me Round' })
    // Of the same name and form it takes the place of the one before.
    await presets.keep('line', 'Long', { count: 20 }, 'me')
    await presets.keep('line', 'Shared', { count: 4 }, 'level')
    expect(presets.allOf('line').map(({ values }) => values)).toEqual([{ count: 20 }, { count: 4 }])
    expect(level.view.presets.size).toBe(1)
    level.undo()
    expect(presets.allOf('line').at(-1)!.values).toEqual({ count: 3 })
    presets.remove(presets.allOf('line')[0]!)
    expect(kept.presets.map(({ name }) => name)).toEqual(['Round'])
    level.notice?.again?.run()
    expect(kept.presets.map(({ name }) => name)).toEqual(['Round', 'Long'])
    presets.remove(presets.allOf('line').at(-1)!)
    expect(level.view.presets.size).toBe(0)
  })

  it('are refused with words where they cannot be kept', async () => {
    const presets = usePresets()
    expect(await presets.keep('line', '<b>', {}, 'me')).toMatch(/plain text/)
    expect(await presets.keep('line', ' ', {}, 'me')).toMatch(/empty/)
    expect(
      await presets.keep('line', 'Deep', { a: JSON.parse('['.repeat(40) + ']'.repeat(40)) as object }, 'me'),
    ).toMatch(/nested/)
    expect(await presets.keep('line', 'Long', { text: 'x'.repeat(100_000) }, 'me')).toMatch(/too large/)
    useSettings().kept.presets = Array.from({ length: MOST_PRESETS }, (_, i) => ({
      form: 'line',
      name: `Row ${i}`,
      values: {},
      picture: null,
    }))
    expect(await presets.keep('line', 'One more', {}, 'me')).toMatch(/delete one first/)
    expect(await presets.keep('line', 'Row 7', { count: 1 }, 'me')).toBeNull()
  })

  it('go out as a file and come in; what is none of this form changes nothing', async () => {
    const [presets, { kept }] = [usePresets(), useSettings()]
    await presets.keep('line', 'Long', { count: 12 }, 'me')
    const text = presets.asFile(presets.allOf('line')[0]!)
    kept.presets = []
    const take = (given: string, form = 'line') => presets.takeFile(new Blob([given]), form)
    expect(await take(text, 'ring')).toBe('It is for another form: “line”.')
    expect(await take(text.replace('"version": 1', '"version": 2'))).toMatch(/version.*line 3/)
    expect(await take(text.replace('"Long"', '7'))).toMatch(/name.*line 6/)
    expect(await take('{')).toMatch(/not JSON/)
    expect(await take(' '.repeat(300_000))).toMatch(/too long/)
    expect(kept.presets).toEqual([])
    expect(await take(text)).toBeNull()
    expect(kept.presets).toEqual([{ form: 'line', name: 'Long', values: { count: 12 }, picture: null }])
  })

  it('that were kept by an earlier version, or make no sense, cost no others', () => {
    const { presets, recipes } = readSettings({
      presets: [{ name: 'x' }, { form: 'line', name: 'Row', values: { count: 2 }, picture: null }, 3],
      recipes: [{ name: 'x' }, null],
    })
    expect([presets.map(({ name }) => name), recipes]).toEqual([['Row'], []])
  })
})
