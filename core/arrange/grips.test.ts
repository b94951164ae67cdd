import fc from 'fast-check'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyVec3 } from '../../tests/support'
import { countOf, fanRowStarts } from './count'
import { copiesOf } from './evaluate'
import { dragGrip, gripsOf, withoutPoint } from './grips'
import { fanRowPlace, gridFarPlace, linePlace, ringPlace } from './place-of'
import type { LineRule, Rise, Rule } from './rule'
import { FIRST_RULES, ruleSchema } from './rule'

const { line, ring, fan, grid, path, mirror } = FIRST_RULES
const placeOf = (rule: Rule, index: number, shift: readonly number[] = [0, 0, 0]) => new Vector3().fromArray(copiesOf(rule), index * 16 + 12).add(new Vector3(...shift))
function near(a: Vector3, b: Vector3): void {
  expect(a.distanceTo(b)).toBeLessThan(1e-6 * Math.max(1, b.length()))
}

const anyLine: fc.Arbitrary<LineRule> = fc.record({
  rule: fc.constant('line' as const), count: fc.integer({ min: 2, max: 12 }), along: anyVec3, measure: fc.constantFrom('spacing' as const, 'span' as const),
  least: fc.constant(1), ratio: fc.double({ min: 0.6, max: 1.5, noNaN: true }), centred: fc.boolean(),
  turn: fc.tuple(fc.integer({ min: -8, max: 8 }), fc.integer({ min: -8, max: 8 }), fc.integer({ min: -8, max: 8 })),
  size: fc.double({ min: 0.7, max: 1.3, noNaN: true }), axes: fc.constantFrom('world' as const, 'local' as const),
})

describe('a line dragged by its ends', () => {
  it('has the dragged copy where the pointer is and the other end where it was, whatever its turn, size and ratio', () => {
    fc.assert(fc.property(anyLine, anyVec3, fc.constantFrom(0, 1), (rule, to, which) => {
      const last = countOf(rule) - 1
      const { rule: dragged, shift } = dragGrip(rule, which, new Vector3(...to))
      near(placeOf(dragged, which === 0 ? 0 : last, shift), new Vector3(...to))
      near(placeOf(dragged, which === 0 ? last : 0, shift), placeOf(rule, which === 0 ? last : 0))
      expect(countOf(dragged)).toBe(countOf(rule))
    }))
  })

  it('that fits as many as it can has more of them when it is drawn out', () => {
    const { rule } = dragGrip({ ...line, measure: 'fit', along: [3, 0, 0], least: 1 }, 1, new Vector3(7, 0, 0))
    expect(countOf(rule)).toBe(8)
    near(placeOf(rule, 7), new Vector3(7, 0, 0))
  })
})

describe('the place of one copy by itself', () => {
  const anyRise = fc.constantFrom<Rise>({ by: 'rows', height: 0.4, every: 2 }, { by: 'profile', points: [[0, 0], [0.4, 1], [1, 3]], smooth: true }, { by: 'expression', text: '0.3 * row + 0.1 * column + index / count' })
  const anyAngle = fc.integer({ min: -400, max: 400 })

  it('is where the rule puts it among all', () => {
    fc.assert(fc.property(anyLine, fc.nat(11), (rule, i) => near(linePlace(rule, i % rule.count), placeOf(rule, i % rule.count))))
    fc.assert(fc.property(fc.integer({ min: 1, max: 40 }), fc.constantFrom(0 as const, 1 as const, 2 as const), anyAngle, anyAngle, fc.nat(39), (count, axis, start, arc, i) => {
      const rule = { ...ring, count, axis, start, arc, rise: 0.3 }
      near(ringPlace(rule, i % count), placeOf(rule, i % count))
    }))
    fc.assert(fc.property(fc.integer({ min: 1, max: 6 }), fc.constantFrom('same' as const, 'spacing' as const, 'given' as const), anyRise, fc.nat(5), (rows, counts, rise, at) => {
      const rule = { ...fan, rows, counts, given: [4, 1, 7], stagger: 0.5, rise }
      const row = at % rows
      near(fanRowPlace(rule, row, fanRowStarts(rule)[row]!, countOf(rule)), placeOf(rule, fanRowStarts(rule)[row]!))
    }))
    fc.assert(fc.property(fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: 1, max: 5 })) as [fc.Arbitrary<number>, fc.Arbitrary<number>, fc.Arbitrary<number>]), anyRise, fc.boolean(), fc.constantFrom('spacing' as const, 'span' as const), (counts, rise, centred, measure) => {
      const rule = { ...grid, counts, rise, centred, measure }
      near(gridFarPlace(rule), placeOf(rule, countOf(rule) - 1))
    }))
  })
})

describe('other grips', () => {
  it('lie where their copies do, and leave a rule as it is when they are not moved', () => {
    const rules: Rule[] = [line, { ...line, centred: true, turn: [0, 10, 0], axes: 'local' }, ring, { ...ring, arc: 140, axis: 0, start: 20 }, { ...ring, axis: 2 }, fan, { ...grid, counts: [3, 2, 4] }, { ...grid, measure: 'span', centred: true }]
    for (const rule of rules) {
      gripsOf(rule).forEach((grip, index) => {
        const { rule: same, shift } = dragGrip(rule, index, grip.at.clone())
        expect(shift ?? [0, 0, 0]).toEqual([0, 0, 0])
        for (const i of [0, countOf(rule) - 1]) near(placeOf(same, i), placeOf(rule, i))
        expect(ruleSchema.safeParse(same).success).toBe(true)
      })
    }
    expect(gripsOf(mirror)).toEqual([])
    expect(dragGrip(mirror, 0, new Vector3())).toEqual({ rule: mirror })
  })

  it('change radius and start of a ring, and the arc of a part of one', () => {
    const { rule } = dragGrip({ ...ring, arc: 90, count: 4 }, 0, new Vector3(0, 5, 4))
    expect(rule).toMatchObject({ radius: 4, start: 0, arc: 90 })
    const { rule: wider } = dragGrip(rule, 1, new Vector3(0, 0, -2))
    expect(wider).toMatchObject({ radius: 2, start: 0, arc: expect.closeTo(180, 9) })
    near(placeOf(wider, 3), new Vector3(0, 0, -2))
  })

  it('change radius, arc and depth of a fan', () => {
    const { rule } = dragGrip(fan, 0, new Vector3(-3, 0, 3))
    expect(rule).toMatchObject({ radius: expect.closeTo(Math.hypot(3, 3), 9), arc: expect.closeTo(90, 9) })
    near(placeOf(rule, 0), new Vector3(-3, 0, 3))
    expect(dragGrip({ ...fan, rows: 4 }, 1, new Vector3(0, 0, 11)).rule).toMatchObject({ depth: 2 })
  })

  it('bring the far corner of a grid to the pointer', () => {
    for (const rule of [{ ...grid, counts: [3, 2, 5] as [number, number, number] }, { ...grid, measure: 'span' as const, counts: [3, 2, 5] as [number, number, number] }]) {
      const { rule: dragged } = dragGrip(rule, 0, new Vector3(8, 1, 6))
      near(placeOf(dragged, countOf(rule) - 1), new Vector3(8, 1, 6))
    }
  })

  it('move a point of a path, or draw a new one out between two', () => {
    const bent: Rule = { ...path, points: [[0, 0, 0], [4, 0, 0], [8, 0, 0]] }
    expect(gripsOf(bent)).toHaveLength(5)
    expect(gripsOf({ ...bent, closed: true })).toHaveLength(6)
    expect(dragGrip(bent, 1, new Vector3(4, 1, 2)).rule).toMatchObject({ points: [[0, 0, 0], [4, 1, 2], [8, 0, 0]] })
    expect(dragGrip(bent, 4, new Vector3(6, 0, 3)).rule).toMatchObject({ points: [[0, 0, 0], [4, 0, 0], [6, 0, 3], [8, 0, 0]] })
    expect(withoutPoint(bent as Extract<Rule, { rule: 'path' }>, 1)!.points).toEqual([[0, 0, 0], [8, 0, 0]])
    expect(withoutPoint(path, 0)).toBeNull()
  })
})
