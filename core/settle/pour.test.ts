import fc from 'fast-check'
import { expect, it } from 'vitest'
import { pourPlaces } from './pour'

const circle = fc.record({
  x: fc.double({ min: -50, max: 50, noNaN: true }),
  z: fc.double({ min: -50, max: 50, noNaN: true }),
  base: fc.double({ min: -5, max: 5, noNaN: true }),
  radius: fc.double({ min: 0.1, max: 4, noNaN: true }),
  count: fc.integer({ min: 1, max: 120 }),
  seed: fc.integer({ min: 0, max: 2 ** 32 - 1 }),
})

it('things that are poured begin apart from each other, within the circle where it has room, above the base, and the same for the same seed', () => {
  fc.assert(
    fc.property(
      circle,
      fc.array(fc.double({ min: 0.1, max: 1.5, noNaN: true }), { minLength: 1, maxLength: 4 }),
      (given, sizes) => {
        const weights = sizes.map(() => 1)
        const places = pourPlaces(given, sizes, weights)
        expect(places).toHaveLength(given.count)
        expect(pourPlaces(given, sizes, weights)).toEqual(places)
        const most = Math.max(...sizes)
        for (const [
          i,
          {
            translation: [x, y, z],
            which,
          },
        ] of places.entries()) {
          expect(which).toBeGreaterThanOrEqual(0)
          expect(which).toBeLessThan(sizes.length)
          expect(y - most / 2).toBeGreaterThanOrEqual(given.base - 1e-9)
          expect(Math.hypot(x - given.x, z - given.z)).toBeLessThanOrEqual(Math.max(given.radius - most / 2, 0) + 1e-6)
          for (const other of places.slice(i + 1)) {
            const [a, b, c] = other.translation
            expect(Math.hypot(x - a, y - b, z - c)).toBeGreaterThan(most)
          }
        }
      },
    ),
    { numRuns: 60 },
  )
})

it('each of a mix comes as often as its weight says: chi-squared below 5.991, 2 df, 5 % (NIST/SEMATECH e-Handbook, 1.3.6.7.4)', () => {
  const weights = [1, 2, 5]
  const counts = [0, 0, 0]
  for (const { which } of pourPlaces(
    { x: 0, z: 0, base: 0, radius: 2, count: 2000, seed: 4 },
    [0.3, 0.3, 0.3],
    weights,
  ))
    counts[which]!++
  const chi = weights.reduce(
    (sum, weight, i) => sum + (counts[i]! - (2000 * weight) / 8) ** 2 / ((2000 * weight) / 8),
    0,
  )
  expect(chi).toBeLessThan(5.991)
})
