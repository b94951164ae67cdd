import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Rule } from './rules'
import { definitionOf, ruleMatrices, RULES, ruleSchema } from './rules'

const [line, ring] = [RULES.line.first, RULES.ring.first]
const firstBeyond = (rule: Rule) => definitionOf(rule).firstBeyond(rule)

describe('copies that grow with every step', () => {
  it('are refused with the number of the first that leaves the range', () => {
    // 3^25 is 8.47e11, 3^26 is 2.54e12.
    for (const rule of [
      { ...line, count: 700, size: 3 },
      { ...ring, count: 700, size: 3 },
    ]) {
      expect(firstBeyond(rule)).toBe(26)
      expect(ruleSchema.safeParse(rule).error?.issues[0]?.message).toContain('copy 27')
    }
    // 0.5^39 is 1.8e-12, 0.5^40 is 9.1e-13.
    expect(firstBeyond({ ...line, count: 700, size: 0.5 })).toBe(40)
    expect(firstBeyond({ ...line, count: 700, ratio: 3 })).not.toBeNull()
    expect(firstBeyond({ ...line, count: 600, ratio: 3, measure: 'span' })).toBeNull()
    expect(firstBeyond({ ...line, count: 1_000_000, along: [100_000, 0, 0] })).toBeNull()
  })

  it('have finite matrices wherever they are not refused', () => {
    const factor = fc.oneof(
      fc.constant(1),
      fc.double({ min: 0.001, max: 1000, noNaN: true }),
      fc.double({ min: 0.9, max: 1.1, noNaN: true }),
    )
    const turn = fc.double({ min: -36_000, max: 36_000, noNaN: true })
    const rule = fc.oneof(
      fc
        .record({
          count: fc.integer({ min: 1, max: 2000 }),
          size: factor,
          ratio: factor,
          measure: fc.constantFrom('spacing' as const, 'span' as const),
          axes: fc.constantFrom('world' as const, 'local' as const),
          turn: fc.tuple(turn, turn, turn),
          centred: fc.boolean(),
          along: fc.tuple(turn, turn, turn),
        })
        .map(fields => ({ ...line, ...fields })),
      fc
        .record({ count: fc.integer({ min: 1, max: 2000 }), size: factor, rise: turn })
        .map(fields => ({ ...ring, ...fields })),
    )
    fc.assert(
      fc.property(rule, each => {
        if (ruleSchema.safeParse(each).success)
          expect(ruleMatrices(each).every(value => Number.isFinite(value) && Math.abs(value) < 1e13)).toBe(true)
      }),
      { numRuns: 500 },
    )
  })
})
