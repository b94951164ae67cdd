import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { useSettings } from '~/editor/settings'
import { readSettings, WIDTHS } from '~/editor/settings-schema'
import { testEditor } from '~/editor/test-editor'
import { findSections, PORTABLE, SECTIONS } from './sections'
import { useSetting } from './setting'
import type { Portable } from './settings-file'
import { portableOf, readSettingsFile, VERSION, writeSettings } from './settings-file'

const some = fc.record(
  {
    board: fc.constantFrom('day', 'night', 'system'),
    contrast: fc.constantFrom('system', 'ordinary', 'more'),
    textSize: fc.integer({ min: 80, max: 150 }),
    handleSize: fc.double({ min: 0.6, max: 2, noNaN: true }),
    decimalMark: fc.constantFrom('locale', 'dot', 'comma'),
    digits: fc.option(fc.integer({ min: 0, max: 6 })),
    unit: fc.constantFrom('mm', 'cm', 'm', 'ft', 'in', 'ft-in'),
    keys: fc.dictionary(fc.constantFrom('Undo', 'Set down'), fc.subarray(['Ctrl+z', 'F9', 'KeyG'])),
    favouriteActions: fc.subarray(['Hide', 'Lock', 'Duplicate']),
    panels: fc
      .record({ wide: fc.constant(readSettings({ showBench: false }).panels.wide) })
      .map(some => ({ ...readSettings(null).panels, ...some })),
  },
  { requiredKeys: [] },
) as fc.Arbitrary<Portable>

describe('settings as a file', () => {
  it('survive the way out and in, some of them as well as all', () => {
    fc.assert(
      fc.property(some, settings => {
        expect(readSettingsFile(writeSettings(settings))).toEqual({ ok: true, settings })
      }),
    )
    const all = portableOf(readSettings(null))
    expect(readSettingsFile(writeSettings(all))).toEqual({ ok: true, settings: all })
    expect(Object.keys(all).toSorted()).toEqual([...PORTABLE].toSorted())
  })

  const file = (settings: string, version = String(VERSION)) =>
    `{\n "format": "handy-grid settings",\n "version": ${version},\n "settings": ${settings}\n}`

  it.each([
    ['{"format": ', /not JSON.*line 1/],
    ['[]', /no file of settings/],
    ['null', /no file of settings/],
    ['{"format": "handy-grid keys", "version": 1, "keys": {}}', /no file of settings/],
    [file('{}', String(VERSION + 1)), /newer version.*line 3/],
    [file('{}', '0'), /no version/],
    [file('{}', '"1"'), /no version/],
    [file('[1]'), /has no settings.*line 4/],
    [file('{\n "textSize": 400\n}'), /“textSize” makes no sense.*line 5/],
    [file('{"keys": {"Undo": ["Ctrl+"]}}'), /“keys” makes no sense/],
    [file('{"pointing": {"wheel": "spins"}}'), /“pointing” makes no sense/],
    [file('{"pointing": null}'), /“pointing” makes no sense/],
    [file('{"board": "sepia"}'), /“board” makes no sense/],
    [file('{"looks": {}}'), /no setting “looks”/],
    [file('{"__proto__": {"board": "night"}}'), /no setting/],
    [file(`{"board": ${'['.repeat(100_000)}${']'.repeat(100_000)}}`), /“board” makes no sense/],
    [file(`{"keys": ${'{"a":'.repeat(50_000)}1${'}'.repeat(50_000)}}`), /“keys” makes no sense/],
    [' '.repeat(1_000_001), /too long/],
  ])('is refused with what is wrong where it is broken: %.40s', (text, says) => {
    const read = readSettingsFile(text)
    expect(read.ok).toBe(false)
    if (!read.ok) expect(read.error).toMatch(says)
  })

  it('may say some of what belongs together, as a hand writes it', () => {
    const read = readSettingsFile(file('{"pointing": {"wheel": "pan"}}'))
    expect(read).toMatchObject({ ok: true, settings: { pointing: { wheel: 'pan', zoomAt: 'pointer' } } })
  })

  it('of the first version has its panels at all widths', () => {
    const read = readSettingsFile(file('{"textSize": 90, "showRoster": false, "benchSide": "right"}', '1'))
    expect(read.ok && Object.keys(read.settings)).toEqual(['textSize', 'panels'])
    for (const width of WIDTHS)
      expect(read).toMatchObject({ settings: { panels: { [width]: { showRoster: false, benchSide: 'right' } } } })
    expect(readSettingsFile(file('{"showRoster": false}'))).toMatchObject({ ok: false })
  })

  it('is taken whole, or changes nothing and says why', async () => {
    testEditor([])
    const [setting, { kept }] = [useSetting(), useSettings()]
    await setting.takeFile(new Blob([file('{"textSize": 120, "board": "night"}')]))
    expect([kept.textSize, kept.board, setting.told]).toEqual([120, 'night', '2 settings are as the file says.'])
    await setting.takeFile(new Blob([file('{"textSize": 90, "board": "sepia"}')]))
    expect([kept.textSize, kept.board, setting.told]).toEqual([120, 'night', ''])
    expect(setting.failed).toMatch(/nothing was changed. “board” makes no sense. \(line 4\)/)
    await setting.takeFile(new Blob(['x'.repeat(1_000_001)]))
    expect(setting.failed).toMatch(/too long/)
  })
})

describe('the page of settings', () => {
  it('has each setting in one section, and sets what its section puts back', () => {
    const keys = SECTIONS.flatMap(section => section.keys)
    expect(new Set(keys).size).toBe(keys.length)
    for (const { name, rows, keys: own } of SECTIONS)
      for (const { field } of rows) expect(own, `${name}: ${field.label}`).toContain(field.path[0])
    const labels = SECTIONS.flatMap(({ rows }) => rows.map(({ field }) => field.label))
    expect(new Set(labels).size).toBe(labels.length)
  })

  it('finds settings by what they are called, what they do, and what others call them', () => {
    const found = (text: string) =>
      findSections(text).flatMap(({ name, rows }) => rows.map(row => row.field.label).concat(name))
    expect(found('font')).toEqual(['Size of text', 'Look'])
    expect(found('comma 1,500')).toEqual(['Decimals after', 'Numbers'])
    expect(found('separator')).toEqual(['Decimals after', 'Numbers'])
    expect(found('mouse')).toEqual(['Pointing device'])
    expect(found('panels bench')).toEqual(['Bench', 'Bench on the', 'Roster on the', 'Panels'])
    expect(findSections('')).toHaveLength(SECTIONS.length)
    expect(findSections('moon landing')).toEqual([])
  })

  it('puts a section back and leaves all else', () => {
    testEditor([])
    const [setting, { kept }] = [useSetting(), useSettings()]
    setting.set(['textSize'], 150)
    setting.set(['unit'], 'cm')
    setting.set(['author'], 'Ines')
    expect(kept.isNamed).toBe(true)
    setting.back(SECTIONS.find(({ name }) => name === 'Look'))
    expect([kept.textSize, kept.unit, kept.author]).toEqual([100, 'cm', 'Ines'])
    setting.back()
    expect([kept.unit, kept.isNamed]).toEqual(['m', false])
  })

  it('shows numbers by the mark, the digits and the unit of angles that are set', () => {
    testEditor([])
    const settings = useSettings()
    settings.kept.decimalMark = 'comma'
    expect([settings.lengths([1.5, 2]), settings.angle(22.5), settings.mark]).toEqual(['1,500 × 2,000 m', '22,5°', ','])
    settings.kept.digits = 1
    settings.kept.angles = 'turns'
    expect([settings.lengths([1.25]), settings.angle(90)]).toEqual(['1,3 m', '0,25 turn'])
    settings.kept.decimalMark = 'dot'
    settings.kept.contrast = 'more'
    expect([settings.area(2), settings.boardName]).toEqual(['2.000 m²', 'day-more'])
    settings.kept.board = 'night'
    expect(settings.boardName).toBe('night-more')
  })
})
