import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { rootBetween } from './root'

describe('the root between two places', () => {
  it('of x³ - a is the cube root, and it takes few steps to find it', () => {
    fc.assert(
      fc.property(fc.double({ min: 1e-3, max: 1e6, noNaN: true }), a => {
        let asked = 0
        const root = rootBetween(
          x => {
            asked++
            return x ** 3 - a
          },
          0,
          a + 1,
          a * 1e-13,
        )
        expect(root / Math.cbrt(a)).toBeCloseTo(1, 12)
        expect(asked).toBeLessThan(100)
      }),
    )
  })

  it('is the end that is one already, and ends where a function is level', () => {
    expect(rootBetween(x => x - 2, 2, 5, 1e-12)).toBeCloseTo(2, 12)
    expect(rootBetween(x => x - 5, 2, 5, 1e-12)).toBeCloseTo(5, 12)
    expect(rootBetween(() => 0, 2, 5, 1e-12)).toBe(2)
  })
})
