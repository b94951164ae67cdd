import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { checkBoxes } from '../../tests/check-support'
import { testId } from '../../tests/support'
import { RULES } from '../arrange/rules'
import type { Operation } from '../level/schema'
import type { Vec3 } from '../math/vectors'
import type { Dealt } from '../arrange/scatter/deal'
import { deal, scatterRule } from '../../tests/scatter-support'
import { MOST_COPIES } from './copies'

const row = (count: number, along: Vec3) => ({ rule: { ...RULES.line.first, count, along } })
const lineOf = (count: number, along: Vec3, translation: Vec3 = [0, 0, 0]) => ({
  kind: 'arrangement' as const,
  translation,
  own: row(count, along),
})
const crateIn = (parent: number, size: Vec3 = [1, 1, 1]) => ({ size, parentId: testId(parent) })
const inEachOther = (check: ReturnType<typeof checkBoxes>['check']) =>
  check.findings
    .filter(({ of }) => of === 'copies-overlapping')
    .map(({ things, amount, more }) => ({ things, amount: Math.round(amount! * 1e4) / 1e4, more }))

describe('copies in each other', () => {
  // Cubes of a metre in a row: neighbours k places apart are 1 - k * step deep in each other.
  it('of one row are as deep as their step is short', () => {
    fc.assert(
      fc.property(fc.integer({ min: 12, max: 140 }), fc.integer({ min: 2, max: 12 }), (hundredths, count) => {
        const step = hundredths / 100
        const { check } = checkBoxes([lineOf(count, [step, 0, 0]), crateIn(1)])
        const deep = Array.from({ length: count - 1 }, (_, i) => 1 - (i + 1) * step).filter(depth => depth > 0.1001)
        const unsure = Array.from({ length: count - 1 }, (_, i) => 1 - (i + 1) * step).some(
          depth => Math.abs(depth - 0.1) <= 0.0001,
        )
        if (unsure) return
        const more = deep.reduce((sum, depth) => sum + (count - Math.round((1 - depth) / step)), 0)
        expect(inEachOther(check)).toEqual(
          deep.length === 0 ? [] : [{ things: [testId(1)], amount: Math.round(deep[0]! * 1e4) / 1e4, more }],
        )
      }),
      { numRuns: 40 },
    )
  })

  it('of two arrangements are told once for both, and follow when one of them moves or is made otherwise', () => {
    const { check, change } = checkBoxes([
      lineOf(3, [2, 0, 0]),
      crateIn(1),
      lineOf(3, [2, 0, 0], [0.75, 0, 0]),
      crateIn(3),
    ])
    const both = [testId(1), testId(3)]
    expect(inEachOther(check)).toEqual([{ things: both, amount: 0.25, more: 3 }])
    const put = (id: number, fields: (Operation & { do: 'put' })['fields']) =>
      change([{ do: 'put', id: testId(id), fields }])
    put(3, { translation: [1.5, 0, 0] })
    expect(inEachOther(check)).toEqual([{ things: both, amount: 0.5, more: 2 }])
    put(3, { translation: [0, 0, 40] })
    expect(inEachOther(check)).toEqual([])
    put(1, { own: row(3, [0.6, 0, 0]) })
    expect(inEachOther(check)).toEqual([{ things: [testId(1)], amount: 0.4, more: 2 }])
    put(2, { scale: [1, 0.5, 0.5] })
    expect(inEachOther(check)).toEqual([{ things: [testId(1)], amount: 0.4, more: 2 }])
    put(2, { scale: [0.5, 1, 1] })
    expect(inEachOther(check)).toEqual([])
  })

  it('are deeper where the arrangement is larger, by its own turn and size', () => {
    const { check } = checkBoxes([
      { ...lineOf(3, [0.8, 0, 0]), scale: [2, 1, 3], rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] },
      crateIn(1),
    ])
    expect(inEachOther(check)).toEqual([{ things: [testId(1)], amount: 0.4, more: 2 }])
  })

  it('are looked for in some of very many copies, spread over all', () => {
    const count = 2 * MOST_COPIES
    const { check } = checkBoxes([lineOf(count, [0, 0, 0.8]), crateIn(1)])
    const found = inEachOther(check)
    expect(found).toHaveLength(1)
    expect(found[0]!.more).toBeGreaterThan(MOST_COPIES * 0.9)
    expect(found[0]!.more).toBeLessThanOrEqual(MOST_COPIES * 2)
  })

  it('say nothing while the arrangement is hidden, nor of two in one closed group', () => {
    const hidden = checkBoxes([{ ...lineOf(3, [0.5, 0, 0]), hidden: true }, crateIn(1)])
    expect(inEachOther(hidden.check)).toEqual([])
    const together = checkBoxes([
      { kind: 'group' },
      { ...lineOf(2, [3, 0, 0]), parentId: testId(1) },
      crateIn(2),
      { ...lineOf(2, [3, 0, 0], [0.5, 0, 0]), parentId: testId(1) },
      crateIn(4),
    ])
    expect(inEachOther(together.check)).toEqual([])
  })
})

describe('scattered copies', () => {
  const at = (...places: Vec3[]): Dealt => ({
    ...deal(scatterRule()),
    count: places.length,
    keys: Int32Array.from(places.flatMap((_, i) => [1, i, 0])),
    sources: new Int32Array(places.length),
    matrices: Float64Array.from(places.flatMap(([x, y, z]) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1])),
    sizes: null,
    slopes: new Float64Array(places.length),
  })
  const rule = scatterRule({ on: [{ id: testId(1), stream: 1 }] })
  const boxes = [
    { size: [20, 0.2, 20] as Vec3, tags: ['ground'] },
    { kind: 'arrangement' as const, own: { rule } },
    crateIn(2),
    { size: [1, 1, 1] as Vec3, translation: [0.6, 0.2, 0] as Vec3 },
  ]
  const limits = (off: boolean) => ({ limits: [{ id: testId(900), of: 'scattered-into' as const, off, values: {} }] })
  const dealt = at([0, 0.2, 0], [0.2, 0.2, 0], [5, 0.2, 0])
  const saysOf = (check: ReturnType<typeof checkBoxes>['check']) =>
    check.findings.filter(({ of }) => of === 'scattered-into' || of === 'copies-overlapping')

  it('that reach into a thing are told if they are asked for, not those into what they lie on or each other', () => {
    const { check, change } = checkBoxes(boxes, limits(false), new Map(), () => dealt)
    expect(saysOf(check)).toMatchObject([{ of: 'scattered-into', things: [testId(4), testId(2)], more: 2 }])
    // A metre each, 0.4 apart for the nearer one.
    expect(saysOf(check)[0]!.amount).toBeCloseTo(0.6, 4)
    change([{ do: 'put', id: testId(4), fields: { translation: [2, 0.2, 0] } }])
    expect(saysOf(check)).toEqual([])
    expect(saysOf(checkBoxes(boxes, limits(true), new Map(), () => dealt).check)).toEqual([])
  })
})
