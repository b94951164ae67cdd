import fc from 'fast-check'
import { Color, Vector3 } from 'three'
import { expect, it } from 'vitest'
import { LampCells, LAMPS_PER_CELL } from './lamp-cells'

const place = fc.tuple(
  fc.double({ min: -30, max: 30, noNaN: true }),
  fc.double({ min: 0, max: 8, noNaN: true }),
  fc.double({ min: -30, max: 30, noNaN: true }),
)

it('a place is lit by all lamps that reach it while they are few, and by the nearest to its cell where they are many', () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ at: place, range: fc.double({ min: 0.5, max: 15, noNaN: true }) }), {
        minLength: 1,
        maxLength: 60,
      }),
      place,
      (given, where) => {
        const lamps = given.map(({ at, range }) => ({
          at: new Vector3(...at),
          range,
          color: new Color(),
          direction: new Vector3(0, -1, 0),
          cosInner: -1.5,
          cosOuter: -2,
          area: 0,
        }))
        const cells = new LampCells(lamps)
        const point = new Vector3(...where)
        const lit = cells.at(point)
        const reaching = lamps.flatMap(({ at, range }, i) => (at.distanceTo(point) < range ? [i] : []))
        expect(lit.length).toBeLessThanOrEqual(LAMPS_PER_CELL)
        if (lit.length < LAMPS_PER_CELL) expect(reaching.every(i => lit.includes(i))).toBe(true)
        // Whoever is left out is not nearer to the cell's middle than anybody who is in.
        const middle = point
          .clone()
          .sub(cells.origin)
          .divideScalar(cells.size)
          .floor()
          .addScalar(0.5)
          .multiplyScalar(cells.size)
          .add(cells.origin)
        const farthest = Math.max(0, ...lit.map(i => lamps[i]!.at.distanceTo(middle)))
        for (const i of reaching)
          if (!lit.includes(i)) expect(lamps[i]!.at.distanceTo(middle)).toBeGreaterThanOrEqual(farthest - 1e-4)
      },
    ),
  )
})

it('a thousand lamps of a whole town take no more cells than there may be', () => {
  const lamps = Array.from({ length: 1000 }, (_, i) => ({
    at: new Vector3((i % 40) * 12, 3, Math.floor(i / 40) * 12),
    range: 12,
    color: new Color(),
    direction: new Vector3(),
    cosInner: -1.5,
    cosOuter: -2,
    area: 0,
  }))
  const cells = new LampCells(lamps)
  expect(cells.lists.length / LAMPS_PER_CELL).toBeLessThanOrEqual(120_000)
  expect(cells.at(new Vector3(0, 0, 0))[0]).toBe(0)
})
