import fc from 'fast-check'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { deal, placesOf, scatterRule, siteFor } from '../../../tests/scatter-support'
import type { Vec3 } from '../../math/vectors'
import { anchorOn, matrixOfArea, movedArea, settledAreas } from './anchor'
import type { Area } from './rule'
import { areaSchema } from './rule'

const turned = (degrees: number, x: number, z: number) =>
  new Matrix4()
    .makeTranslation(x, 0, z)
    .multiply(new Matrix4().makeRotationY((degrees * Math.PI) / 180))
    .multiply(new Matrix4().makeScale(20, 1, 20))
const hole: Area = {
  type: 'loop',
  hole: true,
  width: 0,
  points: [
    [4, 0, 4],
    [12, 0, 4],
    [12, 0, 12],
    [4, 0, 12],
  ],
}
const anyPose = fc.record({
  degrees: fc.double({ min: -180, max: 180, noNaN: true }),
  x: fc.double({ min: -30, max: 30, noNaN: true }),
  z: fc.double({ min: -30, max: 30, noNaN: true }),
})

describe('an area on a surface', () => {
  it('goes where the surface goes, with every copy beside the hole as it was: property', () => {
    fc.assert(
      fc.property(anyPose, ({ degrees, x, z }) => {
        const rule = scatterRule({ density: 1 })
        const before = siteFor(rule)
        const area = { ...hole, lies: anchorOn(before.surfaces[0]!, before.toWorld) }
        expect(areaSchema.safeParse(area).success).toBe(true)
        const moved = siteFor(rule, turned(degrees, x, z).toArray())
        const [first, then] = [before, moved].map(site => placesOf(deal({ ...rule, areas: [area] }, site)))
        expect(then!.length).toBe(first!.length)
        // Where each stands follows from where it stood, by the surface's own motion.
        const way = turned(degrees, x, z).multiply(turned(0, 0, 0).invert())
        first!.forEach((place, i) =>
          new Vector3(...place)
            .applyMatrix4(way)
            .toArray()
            .forEach((value, axis) => expect(then![i]![axis]).toBeCloseTo(value, 6)),
        )
        for (const [px, , pz] of then!.map(place => new Vector3(...place).applyMatrix4(way.clone().invert()).toArray()))
          expect(px > 4.001 && px < 11.999 && pz > 4.001 && pz < 11.999).toBe(false)
      }),
      { numRuns: 12 },
    )
  })

  it('stays on its surface when the arrangement is moved, and is taken hold of where it is: property', () => {
    fc.assert(
      fc.property(anyPose, anyPose, ({ degrees, x, z }, other) => {
        const rule = scatterRule({})
        const toWorld = new Matrix4()
          .compose(
            new Vector3(other.x, 1, other.z),
            new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), other.degrees),
            new Vector3(1, 1, 1),
          )
          .toArray()
        const { surfaces } = siteFor(rule)
        const area = { ...hole, lies: anchorOn(surfaces[0]!, new Matrix4().toArray()) }
        const corner = (of: Area, ground: { surfaces: typeof surfaces; toWorld: number[] }) =>
          new Vector3(...of.points[0]!).applyMatrix4(matrixOfArea(of, ground)).toArray()
        corner(area, { surfaces, toWorld }).forEach((value, i) => expect(value).toBeCloseTo(hole.points[0]![i]!, 6))
        const ground = { surfaces: siteFor(rule, turned(degrees, x, z).toArray()).surfaces, toWorld }
        const [settled] = settledAreas({ ...rule, areas: [area] }, ground).areas
        const seen = new Vector3(...settled!.points[0]!).applyMatrix4(new Matrix4().fromArray(toWorld)).toArray()
        for (const of of [area, settled!])
          corner(of, ground).forEach((value, i) => expect(value).toBeCloseTo(seen[i]!, 5))
      }),
      { numRuns: 40 },
    )
  })

  it('is refused with a frame that there is no way back from', () => {
    const good = new Matrix4().makeTranslation(3, 0, 0).toArray()
    const isTaken = (frame: number[]) => areaSchema.safeParse({ ...hole, lies: { on: 1, below: 0, frame } }).success
    expect(isTaken(good)).toBe(true)
    for (const bad of [
      Array.from({ length: 16 }, () => 0),
      good.with(15, 0),
      good.with(3, 0.5),
      good.with(0, 0),
      good.with(5, 1e-13),
      good.slice(1),
      good.with(12, Infinity),
      good.with(12, NaN),
    ])
      expect(isTaken(bad)).toBe(false)
  })

  it('without one goes along with the arrangement, also when its surface is gone', () => {
    const toWorld = new Matrix4().makeTranslation(5, 0, 0).toArray()
    const { surfaces } = siteFor(scatterRule({}))
    expect(matrixOfArea(hole, { surfaces, toWorld }).toArray()).toEqual(toWorld)
    expect(
      matrixOfArea({ ...hole, lies: anchorOn(surfaces[0]!, toWorld) }, { surfaces: [], toWorld }).toArray(),
    ).toEqual(toWorld)
    const shifted = movedArea(
      { ...hole, lies: anchorOn(surfaces[0]!, new Matrix4().toArray()) },
      new Matrix4().makeTranslation(-1, 0, 0),
    )
    expect([shifted.points[0], shifted.lies!.frame.slice(12, 15)]).toEqual([[3, 0, 4] as Vec3, [-1, 0, 0]])
  })
})
