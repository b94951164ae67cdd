import fc from 'fast-check'
import { BoxGeometry, Matrix4, Quaternion, SphereGeometry, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyScale, anyVec3, testSolid } from '../../tests/support'
import { Placed } from './placed'
import { trianglesCross } from './triangles'

const solids = [testSolid(new BoxGeometry(1, 2, 3)), testSolid(new SphereGeometry(1, 9, 7))]
const anyMatrix = fc
  .tuple(anyVec3, anyQuat, anyScale)
  .map(([at, turn, size]) => new Matrix4().compose(new Vector3(...at), new Quaternion(...turn), new Vector3(...size)))

/** All that can be asked of it. */
function known(placed: Placed): number[] {
  const nodes = Array.from({ length: placed.tree.left.length }, (_, node) => node)
  for (const node of nodes) {
    placed.box(node)
    if (placed.tree.left[node]! < 0) placed.leaf(node)
  }
  return [...placed.bounds().min.toArray(), ...placed.bounds().max.toArray(), ...placed.boxes, ...placed.corners]
}

describe('a placed mesh', () => {
  it('that is placed elsewhere is as one that was placed there at first', () => {
    fc.assert(
      fc.property(fc.constantFrom(...solids), anyMatrix, anyMatrix, (solid, first, second) => {
        const moved = new Placed(solid, first)
        known(moved)
        expect(known(moved.moveTo(second))).toEqual(known(new Placed(solid, second)))
      }),
      { numRuns: 50 },
    )
  })
})

/** Whether a segment goes through a triangle, by the signs of the volumes of five tetrahedra; null where one is 0. */
function goesThrough(p: Vector3, q: Vector3, [a, b, c]: readonly [Vector3, Vector3, Vector3]): boolean | null {
  const volume = (u: Vector3, v: Vector3, w: Vector3, x: Vector3) =>
    v.clone().sub(u).cross(w.clone().sub(u)).dot(x.clone().sub(u))
  const signs = [
    volume(a, b, c, p) * -volume(a, b, c, q),
    volume(p, q, a, b) * volume(p, q, b, c),
    volume(p, q, b, c) * volume(p, q, c, a),
  ]
  if (signs.some(sign => Math.abs(sign) < 1e-9)) return null
  return signs.every(sign => sign > 0)
}

describe('two triangles', () => {
  it('cross where a side of one goes through the other, told by volumes instead', () => {
    let [crossing, apart] = [0, 0]
    const anyCorner = fc.tuple(...[0, 1, 2].map(() => fc.integer({ min: -2000, max: 2000 }).map(value => value / 1000)))
    fc.assert(
      fc.property(fc.array(anyCorner, { minLength: 6, maxLength: 6 }), corners => {
        const points = corners.map(([x, y, z]) => new Vector3(x, y, z))
        const [one, two] = [points.slice(0, 3), points.slice(3)] as [
          [Vector3, Vector3, Vector3],
          [Vector3, Vector3, Vector3],
        ]
        const sides = [
          ...one.map((p, i) => goesThrough(p, one[(i + 1) % 3]!, two)),
          ...two.map((p, i) => goesThrough(p, two[(i + 1) % 3]!, one)),
        ]
        if (sides.includes(null)) return
        const numbers = (all: readonly Vector3[]) => Float64Array.from(all.flatMap(point => point.toArray()))
        const expected = sides.includes(true)
        if (expected) crossing++
        else apart++
        expect(trianglesCross(numbers(one), 0, numbers(two), 0)).toBe(expected)
      }),
      { numRuns: 4000 },
    )
    expect(Math.min(crossing, apart)).toBeGreaterThan(200)
  })
})
