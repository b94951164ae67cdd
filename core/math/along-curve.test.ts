import fc from 'fast-check'
import { expect, it } from 'vitest'
import { alongCurve } from './along-curve'

const pointBoxes = (points: readonly (readonly number[])[]) =>
  Float64Array.from(points.flatMap(point => [...point, ...point]))

// The order of the Z-order curve of Morton (1966), from memory: over a square of four by four, quarter by quarter.
it('goes over a square quarter by quarter', () => {
  const points = Array.from({ length: 16 }, (_, i) => [i % 4, 0, Math.floor(i / 4)])
  const order = alongCurve(
    pointBoxes(points),
    points.map((_, i) => i),
  )
  const quarters = [0, 4, 8, 12].map(from =>
    order
      .slice(from, from + 4)
      .map(i => Math.floor(points[i]![0]! / 2) + 2 * Math.floor(points[i]![2]! / 2))
      .join(),
  )
  expect(quarters.map(quarter => new Set(quarter.split(',')).size)).toEqual([1, 1, 1, 1])
  expect(new Set(quarters).size).toBe(4)
})

it('has each box once, also such that are nowhere', () => {
  const anyNumber = fc.oneof(
    fc.double({ min: -1e9, max: 1e9, noNaN: true }),
    fc.constantFrom(0, Infinity, -Infinity, NaN),
  )
  fc.assert(
    fc.property(fc.array(fc.tuple(anyNumber, anyNumber, anyNumber), { maxLength: 40 }), points => {
      const boxes = points.map((_, i) => i)
      expect(alongCurve(pointBoxes(points), boxes).sort((a, b) => a - b)).toEqual(boxes)
    }),
  )
})
