import fc from 'fast-check'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyVec3 } from '../../tests/support'
import { countOf, definitionOf, ruleMatrices, RULES, ruleSchema } from './rules'
import { withoutPoint } from './rules/path'
import type { LineRule } from './rules/line'
import type { Rise } from './rise'
import type { Rule } from './rules'

const [line, ring, fan, grid, path, mirror] = [
  RULES.line.first,
  RULES.ring.first,
  RULES.fan.first,
  RULES.grid.first,
  RULES.path.first,
  RULES.mirror.first,
]
const drag = (rule: Rule, index: number, to: Vector3) => definitionOf(rule).drag(rule, index, to)
const positionAt = (rule: Rule, index: number, shift: readonly number[] = [0, 0, 0]) =>
  new Vector3().fromArray(ruleMatrices(rule), index * 16 + 12).add(new Vector3(...shift))
function near(a: Vector3, b: Vector3): void {
  expect(a.distanceTo(b)).toBeLessThan(1e-6 * Math.max(1, b.length()))
}

const anyLine: fc.Arbitrary<LineRule> = fc.record({
  type: fc.constant('line' as const),
  count: fc.integer({ min: 2, max: 12 }),
  along: anyVec3,
  measure: fc.constantFrom('spacing' as const, 'span' as const),
  least: fc.constant(1),
  ratio: fc.double({ min: 0.6, max: 1.5, noNaN: true }),
  centred: fc.boolean(),
  turn: fc.tuple(fc.integer({ min: -8, max: 8 }), fc.integer({ min: -8, max: 8 }), fc.integer({ min: -8, max: 8 })),
  size: fc.double({ min: 0.7, max: 1.3, noNaN: true }),
  axes: fc.constantFrom('world' as const, 'local' as const),
})

describe('a line dragged by its ends', () => {
  it('has the dragged copy where the pointer is and the other end where it was, whatever its turn, size and ratio', () => {
    fc.assert(
      fc.property(anyLine, anyVec3, fc.constantFrom(0, 1), (rule, to, which) => {
        const last = countOf(rule) - 1
        const { rule: dragged, shift } = definitionOf(rule).drag(rule, which, new Vector3(...to))
        near(positionAt(dragged, which === 0 ? 0 : last, shift), new Vector3(...to))
        near(positionAt(dragged, which === 0 ? last : 0, shift), positionAt(rule, which === 0 ? last : 0))
        expect(countOf(dragged)).toBe(countOf(rule))
      }),
    )
  })

  it('that fits as many as it can has more of them when it is drawn out', () => {
    const { rule } = drag({ ...line, measure: 'fit', along: [3, 0, 0], least: 1 }, 1, new Vector3(7, 0, 0))
    expect(countOf(rule)).toBe(8)
    near(positionAt(rule, 7), new Vector3(7, 0, 0))
  })
})

describe('grips', () => {
  const anyRise = fc.constantFrom<Rise>(
    { by: 'rows', height: 0.4, every: 2 },
    {
      by: 'profile',
      points: [
        [0, 0],
        [0.4, 1],
        [1, 3],
      ],
      smooth: true,
    },
    { by: 'expression', text: '0.3 * row + 0.1 * column + index / count' },
  )
  const anyAngle = fc.integer({ min: -400, max: 400 })
  const anyThree = fc.tuple(
    ...([0, 1, 2].map(() => fc.integer({ min: 1, max: 5 })) as [
      fc.Arbitrary<number>,
      fc.Arbitrary<number>,
      fc.Arbitrary<number>,
    ]),
  )
  const at = (rule: Rule, grip: number) => definitionOf(rule).grips(rule)[grip]!.at

  it('stand at the copies they are of, worked out without the others', () => {
    fc.assert(
      fc.property(anyLine, rule =>
        [0, countOf(rule) - 1].forEach((index, grip) => near(at(rule, grip), positionAt(rule, index))),
      ),
    )
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 40 }),
        fc.constantFrom(0 as const, 1 as const, 2 as const),
        anyAngle,
        anyAngle,
        (count, axis, start, arc) => {
          const rule = { ...ring, count, axis, start, arc, rise: 0.3 }
          near(at(rule, 0), positionAt(rule, 0))
          if (definitionOf(rule).grips(rule).length > 1) near(at(rule, 1), positionAt(rule, count - 1))
        },
      ),
    )
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 6 }),
        fc.constantFrom('same' as const, 'spacing' as const, 'given' as const),
        anyRise,
        (rows, counts, rise) => {
          const rule = { ...fan, rows, counts, given: [4, 1, 7], stagger: 0.5, rise }
          near(at(rule, 0), positionAt(rule, 0))
        },
      ),
    )
    fc.assert(
      fc.property(
        anyThree,
        anyRise,
        fc.boolean(),
        fc.constantFrom('spacing' as const, 'span' as const),
        (counts, rise, centred, measure) => {
          const rule = { ...grid, counts, rise, centred, measure }
          near(at(rule, 0), positionAt(rule, countOf(rule) - 1))
        },
      ),
    )
  })
})

describe('other grips', () => {
  it('lie where their copies do, and leave a rule as it is when they are not moved', () => {
    const rules: Rule[] = [
      line,
      { ...line, centred: true, turn: [0, 10, 0], axes: 'local' },
      ring,
      { ...ring, arc: 140, axis: 0, start: 20 },
      { ...ring, axis: 2 },
      fan,
      { ...grid, counts: [3, 2, 4] },
      { ...grid, measure: 'span', centred: true },
    ]
    for (const rule of rules) {
      definitionOf(rule)
        .grips(rule)
        .forEach((grip, index) => {
          const { rule: same, shift } = definitionOf(rule).drag(rule, index, grip.at.clone())
          expect(shift ?? [0, 0, 0]).toEqual([0, 0, 0])
          for (const i of [0, countOf(rule) - 1]) near(positionAt(same, i), positionAt(rule, i))
          expect(ruleSchema.safeParse(same).success).toBe(true)
        })
    }
    expect(definitionOf(mirror).grips(mirror)).toEqual([])
    expect(definitionOf(mirror).drag(mirror, 0, new Vector3())).toEqual({ rule: mirror })
  })

  it('change radius and start of a ring, and the arc of a part of one', () => {
    const { rule } = drag({ ...ring, arc: 90, count: 4 }, 0, new Vector3(0, 5, 4))
    expect(rule).toMatchObject({ radius: 4, start: 0, arc: 90 })
    const { rule: wider } = definitionOf(rule).drag(rule, 1, new Vector3(0, 0, -2))
    expect(wider).toMatchObject({ radius: 2, start: 0, arc: expect.closeTo(180, 9) })
    near(positionAt(wider, 3), new Vector3(0, 0, -2))
  })

  it('change radius, arc and depth of a fan', () => {
    const { rule } = definitionOf(fan).drag(fan, 0, new Vector3(-3, 0, 3))
    expect(rule).toMatchObject({ radius: expect.closeTo(Math.hypot(3, 3), 9), arc: expect.closeTo(90, 9) })
    near(positionAt(rule, 0), new Vector3(-3, 0, 3))
    expect(drag({ ...fan, rows: 4 }, 1, new Vector3(0, 0, 11)).rule).toMatchObject({ depth: 2 })
  })

  it('bring the far corner of a grid to the pointer', () => {
    for (const rule of [
      { ...grid, counts: [3, 2, 5] as [number, number, number] },
      { ...grid, measure: 'span' as const, counts: [3, 2, 5] as [number, number, number] },
    ]) {
      const { rule: dragged } = definitionOf(rule).drag(rule, 0, new Vector3(8, 1, 6))
      near(positionAt(dragged, countOf(rule) - 1), new Vector3(8, 1, 6))
    }
  })

  it('move a point of a path, or draw a new one out between two', () => {
    const bent: Rule = {
      ...path,
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [8, 0, 0],
      ],
    }
    expect(definitionOf(bent).grips(bent)).toHaveLength(5)
    expect(definitionOf(bent).grips({ ...bent, closed: true })).toHaveLength(6)
    expect(definitionOf(bent).drag(bent, 1, new Vector3(4, 1, 2)).rule).toMatchObject({
      points: [
        [0, 0, 0],
        [4, 1, 2],
        [8, 0, 0],
      ],
    })
    expect(definitionOf(bent).drag(bent, 4, new Vector3(6, 0, 3)).rule).toMatchObject({
      points: [
        [0, 0, 0],
        [4, 0, 0],
        [6, 0, 3],
        [8, 0, 0],
      ],
    })
    expect(withoutPoint(bent as Extract<Rule, { type: 'path' }>, 1)!.points).toEqual([
      [0, 0, 0],
      [8, 0, 0],
    ])
    expect(withoutPoint(path, 0)).toBeNull()
  })
})
