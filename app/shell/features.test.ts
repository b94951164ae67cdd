import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import type { Command } from '~/editor/commands'
import { useCommands, usesOf } from '~/editor/commands'
import { useKeys } from '~/editor/keys/keys'
import { useContextMenu } from '~/editor/menu/context-menu'
import { useModes } from '~/editor/modes'
import { useSettings } from '~/editor/settings'
import { BENCH_NAMES } from '~/editor/settings-schema'
import { keyDown } from '~/editor/keys/test-keys'
import { testEditor } from '~/editor/test-editor'
import { useSwapping } from '~/features/kit/swapping'
import { beginFeatures, panelOf, STEPS } from './features'

describe('features', () => {
  it('have commands with a name and a key of their own', () => {
    testEditor([])
    beginFeatures()
    const commands = useCommands()
    expect(commands.all.length).toBeGreaterThan(110)
    expect(useKeys().uses.filter(({ keys }) => keys.length > 0).length).toBeGreaterThan(90)
    expect(commands.forEvent(keyDown('g'))).toBeNull()
    expect(commands.forEvent(keyDown('a', 'Control'))).toMatchObject({ name: 'Pick everything' })
    expect(() => commands.run('Fly to the moon')).toThrow('nothing is called')
  })

  it('have a step for each bench, in order', () => {
    expect(STEPS.map(({ bench }) => bench)).toEqual(BENCH_NAMES)
    for (const bench of BENCH_NAMES) expect(panelOf(bench)).toBeTruthy()
  })

  it('say what stays on, and Escape ends it', () => {
    testEditor([{ name: 'Crate' }])
    beginFeatures()
    const [modes, swapping] = [useModes(), useSwapping()]
    swapping.start()
    expect(modes.told).toEqual(['Swapping for another part'])
    modes.escape()
    expect([modes.told, swapping.isOn]).toEqual([[], false])
  })

  it('are refused where two commands have one key, or one name', () => {
    const run = () => {}
    const group =
      (...commands: Command[]) =>
      () =>
        usesOf([{ group: 'Some', commands }])
    expect(group({ name: 'Group', key: 'g', run }, { name: 'Set down', key: 'g', run })).toThrow(
      'g does "Group" already',
    )
    expect(group({ name: 'Group', key: 'g', run }, { name: 'Group', key: 'h', run })).toThrow(
      'two commands are called "Group"',
    )
    expect(group({ name: 'Jump up', key: 'n', run })).toThrow('Vertex snap while held')
  })

  it('can all be reached by key, by menu and by find or do', () => {
    testEditor([{ name: 'Crate' }])
    beginFeatures()
    const [commands, keys, menu, { kept }] = [useCommands(), useKeys(), useContextMenu(), useSettings()]
    menu.isAllOpen = true
    const inMenu = new Set(menu.groups.flatMap(({ commands: some }) => some.map(({ name }) => name)))
    const didWithout = commands.all.filter(({ name }) => !inMenu.has(name) || commands.find(name)?.name !== name)
    expect(didWithout.map(({ name }) => name)).toEqual([])
    expect(inMenu.size).toBe(commands.all.length)
    // Whatever it is, a key can be given to it, and is heard.
    const F24 = keyDown('F24')
    for (const { name, byBrowser, can } of commands.all) {
      if (byBrowser) continue
      kept.keys = {}
      keys.assign(name, ['F24'])
      expect(keys.meantAt('page', F24), name).toEqual([name])
      if (!can) expect(commands.forEvent(F24)?.name).toBe(name)
    }
    expect(commands.possible().length).toBeGreaterThan(80)
  })

  it('are meant by their names wherever a text or a button shows a key', () => {
    testEditor([])
    beginFeatures()
    const names = new Set(useKeys().uses.map(({ name }) => name))
    const texts = ['app', 'core/learn'].flatMap(folder =>
      readdirSync(folder, { recursive: true, encoding: 'utf8' })
        .filter(name => /\.(ts|vue)$/.test(name) && !name.includes('.test.'))
        .map(name => readFileSync(`${folder}/${name}`, 'utf8')),
    )
    const said = texts.flatMap(text => [...text.matchAll(/(?<![${])\{([A-Z][^{}'"`$;=<>]{3,})\}(?!\})/g)])
    const does = texts.flatMap(text => [...text.matchAll(/\bdoes="([A-Z][^"]*)"/g)])
    expect([said.length > 40, does.length > 15]).toEqual([true, true])
    // Of an axis in brackets the letter as it is written.
    for (const [, name] of [...said, ...does]) expect(names, name).toContain(name!.replace(/[[\]]/g, ''))
  })
})
