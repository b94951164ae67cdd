import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { countOf, RULES, ruleSchema } from './rules'
import { MOST_COPIES } from './numbers'

const [path, line, grid, fan] = [RULES.path.first, RULES.line.first, RULES.grid.first, RULES.fan.first]

describe('how many copies a rule makes', () => {
  it('is never more than it is bounded by, without laying out a path', () => {
    const place = fc.double({ min: -30, max: 30, noNaN: true })
    const rule = fc
      .record({
        points: fc.array(fc.tuple(place, place, place), { minLength: 2, maxLength: 12 }),
        smooth: fc.boolean(),
        closed: fc.boolean(),
        fitted: fc.boolean(),
        bent: fc.boolean(),
        measure: fc.constantFrom('count' as const, 'spacing' as const, 'points' as const, 'ends' as const),
        spacing: fc.double({ min: 0.2, max: 5, noNaN: true }),
        corners: fc.option(fc.record({ room: fc.double({ min: 0, max: 2, noNaN: true }), ends: fc.boolean() }), {
          nil: undefined,
        }),
      })
      .map(fields => ({ ...path, ...fields }))
    fc.assert(
      fc.property(rule, each => {
        expect(countOf(each)).toBeLessThanOrEqual(RULES.path.most(each))
      }),
      { numRuns: 300 },
    )
  })

  it('is refused where it is too large before anything is worked out: each of these would take minutes, or all memory', () => {
    const far = Array.from({ length: 500 }, (_, i): [number, number, number] => [
      i * 200,
      0,
      i % 2 ? 100_000 : -100_000,
    ])
    for (const rule of [
      { ...path, measure: 'count', count: 3e7 },
      { ...path, measure: 'count', count: 1e9 },
      { ...path, points: far, measure: 'spacing', spacing: 0.01 },
      { ...path, points: far, smooth: false, measure: 'ends', spacing: 0.5 },
      { ...path, points: Array.from({ length: 100_000 }, (_, i) => [i % 1000, 0, i % 7]), measure: 'ends' },
      { ...line, measure: 'fit', along: [100_000, 100_000, 0], least: 0.001 },
      { ...grid, counts: [1e6, 1e6, 1e6] },
      { ...fan, rows: 1_000_000, first: 1_000_000 },
      { ...fan, rows: 1e9, counts: 'spacing' },
    ]) {
      const { success } = ruleSchema.safeParse(rule)
      expect(success, JSON.stringify(rule).slice(0, 80)).toBe(false)
    }
    expect(MOST_COPIES).toBe(1_000_000)
  })
})
