import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { FIRST_BLOCKS } from '~~/core/mesh/block'
import { useSettings } from './settings'
import { readSettings, widthOf, WIDTHS } from './settings-schema'
import { testEditor } from './test-editor'

const sample = JSON.parse(readFileSync('tests/samples/before-types.json', 'utf8')) as {
  levelId: string
  device: { localStorage: { 'handy-grid.settings': Record<string, unknown> } }
}
const then = sample.device.localStorage['handy-grid.settings']

describe('settings', () => {
  it('of an earlier version are kept, with what has been added since', () => {
    const settings = readSettings(then)
    expect(settings).toMatchObject({
      board: 'night',
      unit: 'ft',
      bench: 'repeat',
      steps: then.steps,
      author: then.author,
      flySpeeds: { [sample.levelId]: 11 },
    })
    expect(settings).toMatchObject({
      panels: { middle: { benchWidth: 244 } },
      rosterSort: 'order',
      rosterFollows: true,
    })
    expect(settings.block.shapes).toEqual(FIRST_BLOCKS)
    expect(settings.presets).toEqual([
      {
        form: 'line',
        name: 'Our quay steps',
        values: { rule: expect.objectContaining({ type: 'line', count: 12 }) },
        picture: null,
      },
    ])
  })

  it('that miss something deep inside, or have nonsense there, lose only that', () => {
    const settings = readSettings({
      ...then,
      steps: { grid: { size: 2 }, turn: 'x' },
      hug: null,
      show: { grid: false, sky: 3 },
      presets: [then.presets, ...(then.presets as object[])],
      markSize: 9999,
      duplicate: { as: 'copy' },
    })
    expect(settings.steps).toEqual({
      grid: { on: true, size: 2, lattice: true },
      turn: { on: true, size: 15, lattice: false },
      size: { on: false, size: 0.1, lattice: false },
    })
    expect(settings.hug).toEqual({ onto: 'everything', rest: 'pivot', leaning: false, offset: 0 })
    expect(settings.show).toMatchObject({ grid: false, sky: true, hover: true })
    expect(settings.presets).toHaveLength(1)
    expect([settings.markSize, settings.duplicate]).toMatchObject([24, { as: 'copy', by: [0, 0, 0] }])
    expect(settings.board).toBe('night')
  })

  it('of panels are by the width of the window, and what somebody holds of them stays what is set', () => {
    testEditor([])
    const settings = useSettings()
    const { kept } = settings
    settings.panels.showRoster = false
    expect([kept.panels.middle.showRoster, kept.panels.wide.showRoster]).toEqual([false, true])
    const earlier = readSettings({ ...then, showRoster: false, benchWidth: 300 })
    for (const width of WIDTHS) expect(earlier.panels[width]).toMatchObject({ showRoster: false, benchWidth: 300 })
    expect([900, 1280, 1920].map(widthOf)).toEqual(['narrow', 'middle', 'wide'])
    expect(kept).toBe(settings.kept)
  })

  it('that are none are those of the first day', () => {
    const { author, ...first } = readSettings(null)
    expect(author).toMatch(/^Guest \d{4}$/)
    for (const none of [undefined, 3, 'x', [], {}]) expect(readSettings(none)).toMatchObject(first)
    expect(readSettings({ ...first, author })).toEqual({ ...first, author })
  })
})
