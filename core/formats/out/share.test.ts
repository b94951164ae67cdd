import { describe, expect, it } from 'vitest'
import { testId, testPlacement } from '../../../tests/support'
import { RULES } from '../../arrange/rules'
import { lanternQuayKit } from '../../../demo/kit'
import { bareView } from '../../scene/level-view'
import { glbOptionsSchema, writeLevelGlb } from '../level-glb'
import { usdOptionsSchema, writeLevelUsda } from '../level-usda'
import { planOptionsSchema } from '../plan/options'
import { planSheet } from '../plan/sheet'
import { tableOptionsSchema, writeTable } from '../table/write-table'
import type { OnShare } from './share'
import { between, Counted } from './share'

const part = lanternQuayKit().find(({ name }) => name === 'Crate')!
const rule = { ...RULES.grid.first, counts: [12, 1, 9] as [number, number, number] }
const level = bareView([
  testPlacement(1, { kind: 'arrangement', own: { rule } }),
  testPlacement(2, { kind: 'part', partId: part.id, parentId: testId(1) }),
  ...Array.from({ length: 40 }, (_, i) =>
    testPlacement(10 + i, { kind: 'part', partId: part.id, translation: [i * 2, 0, 30] }),
  ),
])
const partOf = () => Promise.resolve({ name: part.name, mesh: part.mesh })
const pictureOf = () => Promise.reject(new Error('none'))
const glb = (query: object, onShare: OnShare) =>
  writeLevelGlb('Yard', level, partOf, glbOptionsSchema.parse({ compression: 'none', ...query }), {
    sink: () => {},
    pictureOf,
    onShare,
  })

const WRITERS: Record<string, (onShare: OnShare) => Promise<unknown>> = {
  'glTF with nodes': onShare => glb({ instanced: 'false' }, onShare),
  'glTF with instances': onShare => glb({ instanced: 'true' }, onShare),
  'glTF merged': onShare => glb({ merge: '8' }, onShare),
  'USD': onShare => writeLevelUsda('Yard', level, partOf, usdOptionsSchema.parse({}), () => {}, onShare),
  'a table of things': onShare => writeTable(level, tableOptionsSchema.parse({}), String, () => {}, onShare),
  'a table with copies': onShare =>
    writeTable(level, tableOptionsSchema.parse({ copies: 'true' }), String, () => {}, onShare),
  'a plan': onShare =>
    planSheet(level, partOf, planOptionsSchema.parse({}), { name: 'Yard', revision: 1, date: '2026-11-30' }, onShare),
}

describe('how far a file is', () => {
  it.each(Object.entries(WRITERS))('goes up to all of it: %s', async (_name, write) => {
    const told: number[] = []
    await write(share => told.push(share))
    expect(told.length).toBeGreaterThan(1)
    expect(told).toEqual(told.toSorted((a, b) => a - b))
    expect(told[0]).toBeGreaterThan(0)
    // Sources are counted, and are not written as things in every format.
    expect(told.at(-1)).toBeGreaterThan(0.98)
    expect(told.at(-1)).toBeLessThanOrEqual(1)
  })

  it('is never more than all, also where more is counted than was known', () => {
    const told: number[] = []
    const counted = new Counted(
      2,
      between(0.5, 0.7, share => told.push(share)),
    )
    for (let i = 0; i < 4; i++) counted.pass()
    expect(told.map(share => Math.round(share * 100))).toEqual([60, 70, 70, 70])
    new Counted(0, share => told.push(share)).pass()
    expect(told.at(-1)).toBe(1)
  })
})
