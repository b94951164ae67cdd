import fc from 'fast-check'
import { BoxGeometry, Matrix4, Quaternion, SphereGeometry, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { levelOfBoxes, testId, testSolid } from '../../../tests/support'
import type { Vec3 } from '../../math/vectors'
import { Placed } from '../../mesh/placed'
import { overlapOf } from '../../mesh/overlap'
import { standingRotation } from './landing'
import { beside, isSteep } from './beside'

const crate = testSolid(new BoxGeometry(1.2, 1.2, 1.2))
const ball = testSolid(new SphereGeometry(0.4, 24, 16))
const scene = levelOfBoxes([
  { size: [20, 1, 20], translation: [0, -1, 0] },
  { size: [1.2, 1.2, 1.2], translation: [0, 0, 0] },
])
const onSide = (y: number, z = 0.1) => ({ point: [0.6, y, z] as Vec3, normal: [1, 0, 0] as Vec3, surfaceId: testId(2) })
const depth = (solid: typeof crate, point: Vec3, turn: Quaternion) =>
  overlapOf(
    new Placed(solid, new Matrix4().compose(new Vector3(...point), turn, new Vector3(1, 1, 1))),
    new Placed(crate, new Matrix4()),
  )?.depth ?? 0

describe('a thing put onto a steep side', () => {
  it('touches it and is not within it, however it is turned: a second crate clicked onto the side of the first', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 359 }),
        fc.double({ min: 0.05, max: 1.1, noNaN: true }),
        fc.constantFrom(crate, ball),
        fc.constantFrom<'stands' | 'hangs'>('stands', 'hangs'),
        (heading, y, solid, does) => {
          const turn = standingRotation([1, 0, 0], heading, false)
          const { point, standsOn } = beside(scene.index, onSide(y), solid, [0, 0, 0], turn, does)
          expect(depth(solid, point, new Quaternion(...turn))).toBeLessThan(1e-5)
          let nearest = Infinity
          solid.eachPlace((px, py, pz) => {
            nearest = Math.min(
              nearest,
              new Vector3(px, py, pz).applyQuaternion(new Quaternion(...turn)).x + point[0] - 0.6,
            )
          })
          expect(nearest).toBeCloseTo(0, 5)
          expect([point[1], standsOn]).toEqual(
            does === 'hangs' ? [expect.closeTo(y, 6), undefined] : [expect.closeTo(0, 5), testId(1)],
          )
        },
      ),
    )
  })

  it('stands on the ground plane where nothing is below, keeps the place that was pointed at along the side, and goes out of leaning ones', () => {
    const alone = levelOfBoxes([{ size: [1.2, 1.2, 1.2], translation: [0, 0, 0] }])
    expect(beside(alone.index, onSide(0.7, 0.25), crate, [0, 0, 0], [0, 0, 0, 1], 'stands')).toEqual({
      point: [1.2, 0, 0.25],
      standsOn: null,
    })
    // A side that leans back by 60 degrees: at its foot the thing is farther out.
    const lean = new Vector3(Math.sqrt(3) / 2, 0.5, 0)
    const { point } = beside(
      alone.index,
      { point: [3, 1, 0], normal: lean.toArray(), surfaceId: null },
      crate,
      [0, 0, 0],
      [0, 0, 0, 1],
      'stands',
    )
    const corners = [0, 1, 2, 3, 4, 5, 6, 7].map(i =>
      new Vector3(i & 1 ? 0.6 : -0.6, i & 2 ? 1.2 : 0, i & 4 ? 0.6 : -0.6)
        .add(new Vector3(...point))
        .sub(new Vector3(3, 1, 0))
        .dot(lean),
    )
    expect(Math.min(...corners)).toBeCloseTo(0, 5)
    expect(point[1]).toBe(0)
  })

  it('hangs from a ceiling, and a slope that can be stood on is no side', () => {
    const { point, standsOn } = beside(
      scene.index,
      { point: [5, 3, 0], normal: [0, -1, 0], surfaceId: testId(1) },
      crate,
      [0, 0, 0],
      [0, 0, 0, 1],
      'stands',
    )
    expect([point, standsOn]).toEqual([[5, 1.8, 0], undefined])
    expect(
      [0, 40, 44.9].map(degrees =>
        isSteep({ normal: [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180), 0] }),
      ),
    ).toEqual([false, false, false])
    expect(
      [45.1, 90, 180].map(degrees =>
        isSteep({ normal: [Math.sin((degrees * Math.PI) / 180), Math.cos((degrees * Math.PI) / 180), 0] }),
      ),
    ).toEqual([true, true, true])
  })
})
