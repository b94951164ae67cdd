import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { beyondKeeping } from './milestones'

const DAY = 86_400_000
const NOW = Date.UTC(2026, 10, 29, 12)
const at = (...daysAgo: number[]) => daysAgo.map(days => ({ id: String(days), at: NOW - days * DAY }))

describe('letting go of milestones that were made by themselves', () => {
  it('keeps all of two days, the first of each day, week and month', () => {
    expect(beyondKeeping(at(0.1, 0.2, 0.3, 1.9), NOW)).toEqual([])
    // Three on one day of last week: the first of them stays.
    expect(beyondKeeping(at(5.1, 5.2, 5.3), NOW)).toEqual(['5.2', '5.1'])
    const left = (days: number[]) => days.length - beyondKeeping(at(...days), NOW).length
    expect(left(Array.from({ length: 10 }, (_, i) => i + 3))).toBe(10)
    expect(left(Array.from({ length: 70 }, (_, i) => i + 15))).toBeLessThanOrEqual(11)
    expect(left(Array.from({ length: 365 }, (_, i) => i + 101))).toBeLessThanOrEqual(14)
  })

  it('never lets go of all of a month, and lets go of nothing more when asked again', () => {
    fc.assert(
      fc.property(fc.uniqueArray(fc.double({ min: 0, max: 900, noNaN: true }), { maxLength: 60 }), days => {
        const all = at(...days)
        const gone = new Set(beyondKeeping(all, NOW))
        const left = all.filter(({ id }) => !gone.has(id))
        expect(beyondKeeping(left, NOW)).toEqual([])
        const month = (each: { at: number }) => Math.floor(each.at / DAY / 30)
        expect(new Set(left.map(month))).toEqual(new Set(all.map(month)))
      }),
    )
  })
})
