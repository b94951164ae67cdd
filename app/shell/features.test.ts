import { describe, expect, it } from 'vitest'
import { commandsByKey, useCommands } from '~/editor/commands'
import { useModes } from '~/editor/modes'
import { BENCH_NAMES } from '~/editor/settings-schema'
import { testEditor } from '~/editor/test-editor'
import { useSwapping } from '~/features/kit/swapping'
import { beginFeatures, panelOf, STEPS } from './features'

describe('features', () => {
  it('have commands with a name and a key of their own', () => {
    testEditor([])
    beginFeatures()
    const commands = useCommands()
    expect(commands.all.length).toBeGreaterThan(110)
    expect(commandsByKey(commands.all).size).toBeGreaterThan(60)
    expect(commands.forKey('g')).toBeNull()
    expect(commands.forKey('Ctrl+a')).toMatchObject({ name: 'Pick everything' })
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
    expect(() =>
      commandsByKey([
        { name: 'Group', key: 'g', run },
        { name: 'Set down', key: 'g', run },
      ]),
    ).toThrow('g does "Group" already')
    expect(() =>
      commandsByKey([
        { name: 'Group', key: 'g', run },
        { name: 'Group', key: 'h', run },
      ]),
    ).toThrow('two commands are called "Group"')
    expect([
      ...commandsByKey([
        { name: 'Copy', key: 'Ctrl+c', byBrowser: true, run },
        { name: 'Cut', key: 'x', run },
      ]).keys(),
    ]).toEqual(['x'])
  })
})
