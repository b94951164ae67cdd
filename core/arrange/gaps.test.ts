import { Box3, Matrix4, Vector3 } from 'three'
import { OBB } from 'three/addons/math/OBB.js'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Vec3 } from '../math/vectors'
import type { RuleNumber } from './fields'
import { gapIn, keepGaps, withGap, wrongGap } from './gaps'
import type { Rule } from './rules'
import { definitionOf, ruleMatrices, RULES, ruleSchema } from './rules'

const side = fc.double({ min: 0.05, max: 6, noNaN: true })
const anySize = fc.tuple(side, side, side) as fc.Arbitrary<Vec3>
const gapFieldsOf = (rule: Rule) =>
  definitionOf(rule)
    .fields(rule)
    .filter((field): field is RuleNumber => field.type === 'number' && field.beyond !== undefined)

/** The copies of a rule as boxes, by three's oriented boxes; a hair smaller, so that what touches is apart. */
function boxesOf(rule: Rule, size: Vec3): OBB[] {
  const matrices = ruleMatrices(rule)
  const half = new Vector3(...size).multiplyScalar(0.5 - 1e-6)
  return Array.from({ length: matrices.length / 16 }, (_, i) =>
    new OBB(new Vector3(), half.clone()).applyMatrix4(new Matrix4().fromArray(matrices, i * 16)),
  )
}

describe('a rule as it comes', () => {
  it.each([
    RULES.line.first,
    RULES.grid.first,
    RULES.ring.first,
    { ...RULES.fan.first, counts: 'spacing' as const, rise: { by: 'rows' as const, height: 0, every: 1 } },
  ])('puts copies of any size side by side, none in another: $type', (first: Rule) => {
    fc.assert(
      fc.property(anySize, size => {
        const rule = definitionOf(first).sideBySide(first, size)
        expect(ruleSchema.safeParse(rule).success).toBe(true)
        const boxes = boxesOf(rule, size)
        for (const [i, box] of boxes.entries())
          for (const other of boxes.slice(i + 1)) expect(box.intersectsOBB(other)).toBe(false)
      }),
      { numRuns: 15 },
    )
  })

  it('begins a line at exactly the size of its source, and leaves what it does not know as it was', () => {
    expect(RULES.line.sideBySide(RULES.line.first, [3.1, 2, 1]).along).toEqual([3.1, 0, 0])
    expect(RULES.grid.sideBySide(RULES.grid.first, [3.1, 2.5, 0]).spacing).toEqual([3.1, 2.5, 1.5])
    expect(RULES.line.sideBySide(RULES.line.first, [0, 0, 0])).toEqual(RULES.line.first)
  })
})

describe('a gap', () => {
  it('is the free space between neighbours, whichever way a line goes: by the boxes themselves', () => {
    fc.assert(
      fc.property(anySize, fc.constantFrom(0, 1, 2), fc.double({ min: 0, max: 5, noNaN: true }), (size, axis, gap) => {
        const along = [0, 0, 0].with(axis, 1) as Vec3
        const rule: Rule = { ...RULES.line.first, measure: 'gap', along }
        const [field] = gapFieldsOf(rule)
        const next = { ...rule, along: withGap(field!, along, gap, size) as Vec3 }
        const [a, b] = [0, 1].map(i =>
          new Box3().setFromCenterAndSize(
            new Vector3().setFromMatrixPosition(new Matrix4().fromArray(ruleMatrices(next), i * 16)),
            new Vector3(...size),
          ),
        )
        expect(b!.min.getComponent(axis) - a!.max.getComponent(axis)).toBeCloseTo(gap, 9)
        expect(gapIn(field!, next.along, size)).toBeCloseTo(gap, 9)
      }),
    )
  })

  it('keeps the way it goes, also backwards, and is refused where all would stand in one place', () => {
    const [x] = gapFieldsOf({ ...RULES.grid.first, measure: 'gap' })
    expect([gapIn(x!, -3, [1, 1, 1]), withGap(x!, -3, 0.5, [1, 1, 1])]).toEqual([2, -1.5])
    const [way] = gapFieldsOf({ ...RULES.line.first, measure: 'gap' })
    expect(withGap(way!, [0, 0, -2], 0.5, [1, 1, 1])).toEqual([0, 0, -1.5])
    expect([wrongGap(way!, [2, 0, 0], -0.9, [1, 1, 1]), wrongGap(way!, [2, 0, 0], -1, [1, 1, 1])]).toEqual([
      null,
      'All would stand in one place.',
    ])
  })

  it('is a measure of every rule that says how far apart its copies are, and stays when sources come to be of another size', () => {
    for (const first of [
      RULES.line.first,
      RULES.grid.first,
      RULES.ring.first,
      RULES.fan.first,
      RULES.path.first,
    ] as Rule[]) {
      const rule = { ...first, measure: 'gap' } as Rule
      expect(ruleSchema.safeParse(rule).success).toBe(true)
      const before = gapFieldsOf(rule)
      expect(before.length).toBeGreaterThan(0)
      const next = keepGaps(rule, [1, 1, 1], [2, 3, 4])
      for (const field of before) {
        const valueIn = (of: Rule) =>
          (field.path.reduce<unknown>((at, key) => (at as Record<string, unknown>)[key], of) ?? field.otherwise) as
            | number
            | Vec3
        expect(gapIn(field, valueIn(next), [2, 3, 4])).toBeCloseTo(gapIn(field, valueIn(rule), [1, 1, 1]), 9)
      }
    }
  })
})
