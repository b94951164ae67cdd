import fc from 'fast-check'
import {
  BoxGeometry,
  IcosahedronGeometry,
  Matrix4,
  Quaternion,
  SphereGeometry,
  TorusGeometry,
  Triangle,
  Vector3,
} from 'three'
import type { BufferGeometry } from 'three'
import { OBB } from 'three/examples/jsm/math/OBB.js'
import { ExtendedTriangle } from 'three-mesh-bvh'
import { describe, expect, it } from 'vitest'
import { nearestBetween } from '../../core/mesh/clearance'
import { loopArea } from '../../core/mesh/figures'
import { isInside, overlapOf, TOUCHING } from '../../core/mesh/overlap'
import { Placed } from '../../core/mesh/placed'
import { Solid } from '../../core/mesh/solid'
import { anyQuat, anyScale, TEST_MATERIAL } from '../support'

const place = (
  solid: Solid,
  at: readonly number[],
  quat: readonly number[] = [0, 0, 0, 1],
  scale: readonly number[] = [1, 1, 1],
) => new Placed(solid, new Matrix4().compose(new Vector3(...at), new Quaternion(...quat), new Vector3(...scale)))

/** A mesh whose pivot is where the geometry's origin is. */
function solidOf(...geometries: BufferGeometry[]): Solid {
  return new Solid({
    primitives: geometries.map(geometry => ({
      material: TEST_MATERIAL,
      positions: new Float32Array(geometry.getAttribute('position').array),
      normals: new Float32Array(geometry.getAttribute('normal').array),
      indices: Uint32Array.from(
        geometry.index?.array ?? Array.from({ length: geometry.getAttribute('position').count }, (_, i) => i),
      ),
    })),
  })
}
const shapes = [
  solidOf(new BoxGeometry(1, 0.5, 2)),
  solidOf(new IcosahedronGeometry(0.7, 0)),
  solidOf(new TorusGeometry(0.8, 0.2, 4, 6)),
]

/** All triangles in the world, by a library's own matrices. */
function triangles({ solid, matrix }: Placed): Triangle[] {
  return solid.mesh.primitives.flatMap(({ positions, indices }) =>
    Array.from(
      { length: indices.length / 3 },
      (_, t) =>
        new Triangle(
          ...([0, 1, 2].map(k => new Vector3().fromArray(positions, indices[t * 3 + k]! * 3).applyMatrix4(matrix)) as [
            Vector3,
            Vector3,
            Vector3,
          ]),
        ),
    ),
  )
}

/** The distance of two triangles by the mesh library. */
function distance(a: Triangle, b: Triangle): number {
  const [one, other] = [a, b].map(of => new ExtendedTriangle(of.a, of.b, of.c)) as [ExtendedTriangle, ExtendedTriangle]
  return one.intersectsTriangle(other) ? 0 : one.distanceToTriangle(other)
}

describe('the nearest points of two meshes', () => {
  it('are as near as those of any two of their triangles', () => {
    fc.assert(
      fc.property(
        fc.nat({ max: 2 }),
        fc.nat({ max: 2 }),
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -3, max: 3, noNaN: true }))),
        anyQuat,
        anyScale,
        (i, j, at, quat, scale) => {
          const [a, b] = [place(shapes[i]!, [0, 0, 0]), place(shapes[j]!, at, quat, scale)]
          const brute = Math.min(...triangles(a).flatMap(one => triangles(b).map(other => distance(one, other))))
          const { squared, a: pointA, b: pointB } = nearestBetween(a, b)
          expect(Math.abs(Math.sqrt(squared) - brute)).toBeLessThan(1e-9)
          expect(Math.hypot(...[0, 1, 2].map(axis => pointA[axis]! - pointB[axis]!))).toBeCloseTo(
            Math.sqrt(squared),
            12,
          )
          for (const [point, of] of [
            [pointA, a],
            [pointB, b],
          ] as const)
            expect(
              Math.min(
                ...triangles(of).map(t =>
                  t.closestPointToPoint(new Vector3(...point), new Vector3()).distanceTo(new Vector3(...point)),
                ),
              ),
            ).toBeLessThan(1e-9)
        },
      ),
      { numRuns: 40 },
    )
  })

  it('of two balls lie on the line between their middles', () => {
    const ball = solidOf(new SphereGeometry(1, 64, 48))
    const { squared } = nearestBetween(place(ball, [0, 0, 0]), place(ball, [3, 4, 0]))
    // Facets lie within the ball by 1 - cos(pi/64).
    expect(Math.sqrt(squared)).toBeGreaterThan(3 - 1e-9)
    expect(Math.sqrt(squared)).toBeLessThan(3 + 5e-3)
  })
})

describe('how deep two meshes overlap', () => {
  it("is null where boxes do not overlap by the separating axes, and something where they do (Gottschalk, Lin and Manocha 1996, by three's OBB)", () => {
    const box = solidOf(new BoxGeometry(1, 1, 1))
    const obb = ({ matrix }: Placed) => new OBB(new Vector3(), new Vector3(0.5, 0.5, 0.5)).applyMatrix4(matrix)
    let [met, apart] = [0, 0]
    fc.assert(
      fc.property(
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -1.4, max: 1.4, noNaN: true }))),
        anyQuat,
        fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.3, max: 2, noNaN: true }))),
        (at, quat, scale) => {
          const [a, b] = [place(box, [0, 0, 0]), place(box, at, quat, scale)]
          const found = overlapOf(a, b)
          const reallyMet = obb(a).intersectsOBB(obb(b))
          if (found) met++
          else apart++
          if (found) expect(reallyMet).toBe(true)
          // What only touches is neither.
          else if (reallyMet)
            expect(
              Math.sqrt(nearestBetween(place(box, [0, 0, 0], [0, 0, 0, 1], [1 - 1e-4, 1 - 1e-4, 1 - 1e-4]), b).squared),
            ).toBeGreaterThan(0)
          if (!found) return
          const moved = new Placed(
            a.solid,
            new Matrix4()
              .makeTranslation(
                ...found.way
                  .clone()
                  .multiplyScalar(found.depth + 2e-5)
                  .toArray(),
              )
              .multiply(a.matrix),
          )
          expect(overlapOf(moved, b)).toBeNull()
        },
      ),
      { numRuns: 300 },
    )
    expect(Math.min(met, apart)).toBeGreaterThan(40)
  })

  it('of boxes along the same axes is the least of the three ways, also with the same outline or one within the other', () => {
    const box = solidOf(new BoxGeometry(1, 1, 1))
    for (const [at, scale, depth] of [
      [[0, 0.97, 0], [1, 1, 1], 0.03],
      [[0.9, 0.2, 0], [1, 1, 1], 0.1],
      [[0, 0, 0], [1, 1, 1], 1],
      [[0.1, 0, 0], [0.2, 0.2, 0.2], 0.5],
      [[0, 0.3, 0], [3, 0.1, 3], 0.25],
      [[0, 0, 0], [0.1, 5, 0.1], 0.55],
    ] as const)
      expect(overlapOf(place(box, [0, 0, 0]), place(box, at, [0, 0, 0, 1], scale))!.depth).toBeCloseTo(depth, 5)
    for (const at of [
      [1, 0, 0],
      [1, 1, 1],
      [0, 1 + TOUCHING / 2, 0.3],
      [3, 0, 0],
    ])
      expect(overlapOf(place(box, [0, 0, 0]), place(box, at))).toBeNull()
  })

  it("of a post at the side of an arch is the post's own, not the arch's", () => {
    const arch = solidOf(
      new BoxGeometry(0.2, 2, 0.2).translate(-1, 1, 0),
      new BoxGeometry(0.2, 2, 0.2).translate(1, 1, 0),
      new BoxGeometry(2.2, 0.2, 0.2).translate(0, 2.1, 0),
    )
    const crate = solidOf(new BoxGeometry(0.5, 0.5, 0.5))
    expect(overlapOf(place(crate, [0.67, 0.5, 0]), place(arch, [0, 0, 0]))).toMatchObject({ way: { x: -1 } })
    expect(overlapOf(place(crate, [0.67, 0.5, 0]), place(arch, [0, 0, 0]))!.depth).toBeCloseTo(0.02, 5)
    expect(overlapOf(place(crate, [0, 0.5, 0]), place(arch, [0, 0, 0]))).toBeNull()
  })

  it('is null where a plank carries something, whichever of the two is asked', () => {
    const plank = solidOf(
      new BoxGeometry(3, 0.07, 1).translate(0, 0.98, 0),
      new BoxGeometry(0.1, 2.5, 0.1).translate(1.4, 1.25, 0.5),
      new BoxGeometry(0.1, 2.5, 0.1).translate(-1.4, 1.25, 0.5),
    )
    const [a, b] = [
      place(plank, [0, 0, 0], [0, 0.1, 0, 0.995]),
      place(solidOf(new BoxGeometry(0.4, 0.4, 0.4).translate(0, 0.2, 0)), [0, 1.015, 0]),
    ]
    expect([overlapOf(a, b), overlapOf(b, a)]).toEqual([null, null])
    const sunk = place(solidOf(new BoxGeometry(0.4, 0.4, 0.4).translate(0, 0.2, 0)), [0, 1.005, 0])
    for (const found of [overlapOf(a, sunk), overlapOf(sunk, a)]) expect(found!.depth).toBeCloseTo(0.01, 5)
  })

  it('of two balls is what their middles are too near, along the best of the axes', () => {
    const ball = solidOf(new SphereGeometry(1, 48, 32))
    expect(overlapOf(place(ball, [0, 0, 0]), place(ball, [1.9, 0, 0]))!.depth).toBeCloseTo(0.1, 2)
  })

  it('knows what is inside of a closed mesh', () => {
    const torus = place(shapes[2]!, [5, 0, 0])
    expect(
      [
        [5.8, 0, 0],
        [5, 0, 0],
        [5, 0.8, 0],
        [9, 0, 0],
      ].map(point => isInside(new Vector3(...point), torus)),
    ).toEqual([true, false, true, false])
  })
})

describe('areas', () => {
  it('of loops: a triangle of 3, 4, 5 has 6; a square turned anyhow keeps its area', () => {
    expect(
      loopArea(
        [
          [0, 0, 0],
          [3, 0, 0],
          [3, 4, 0],
        ].map(point => new Vector3(...point)),
      ).area,
    ).toBe(6)
    const turn = new Quaternion(0.1, 0.5, -0.3, 0.8).normalize()
    expect(
      loopArea(
        [
          [0, 0, 0],
          [2, 0, 0],
          [2, 0, 2],
          [0, 0, 2],
        ].map(point => new Vector3(...point).applyQuaternion(turn).addScalar(7)),
      ).area,
    ).toBeCloseTo(4, 12)
  })
})
