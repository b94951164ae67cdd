import { BufferAttribute, BufferGeometry, Vector3 } from 'three'

/**
 * A box whose edges are cut off at 45 degrees, so that they catch the light. Flat faces, 44 triangles, the origin in
 * the middle.
 *
 * @param width, height, depth outer size in metres
 * @param chamfer how much is cut off each edge, measured along the faces; at most half the smallest side
 */
export function chamferedBox(width: number, height: number, depth: number, chamfer: number): BufferGeometry {
  const half = [width / 2, height / 2, depth / 2]
  const cut = Math.min(chamfer, ...half)
  const positions: number[] = []
  const normals: number[] = []

  /** The corner of the face looking along `axis`, at the octant given by signs. */
  const corner = (axis: number, signs: readonly number[]) =>
    new Vector3(...(signs.map((sign, i) => sign * (half[i]! - (i === axis ? 0 : cut))) as [number, number, number]))

  const polygon = (points: Vector3[]) => {
    const [a, b, c] = points as [Vector3, Vector3, Vector3]
    const normal = b.clone().sub(a).cross(c.clone().sub(a)).normalize()
    const middle = points.reduce((sum, point) => sum.add(point), new Vector3())
    if (normal.dot(middle) < 0) {
      points.reverse()
      normal.negate()
    }
    for (let i = 2; i < points.length; i++) {
      for (const point of [points[0]!, points[i - 1]!, points[i]!]) {
        positions.push(point.x, point.y, point.z)
        normals.push(normal.x, normal.y, normal.z)
      }
    }
  }

  const withSigns = (axis: number, sign: number, a: number, b: number) => {
    const signs = [0, 0, 0]
    signs[axis] = sign
    signs[(axis + 1) % 3] = a
    signs[(axis + 2) % 3] = b
    return signs
  }

  for (let axis = 0; axis < 3; axis++) {
    for (const sign of [-1, 1]) {
      polygon(
        [
          [-1, -1],
          [1, -1],
          [1, 1],
          [-1, 1],
        ].map(([a, b]) => corner(axis, withSigns(axis, sign, a!, b!))),
      )
    }
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3]
    for (const a of [-1, 1]) {
      for (const b of [-1, 1]) {
        const low = withSigns(axis, -1, a, b)
        const high = withSigns(axis, 1, a, b)
        polygon([corner(u, low), corner(u, high), corner(v, high), corner(v, low)])
      }
    }
  }
  for (const x of [-1, 1]) {
    for (const y of [-1, 1]) {
      for (const z of [-1, 1]) polygon([0, 1, 2].map(axis => corner(axis, [x, y, z])))
    }
  }
  return new BufferGeometry()
    .setAttribute('position', new BufferAttribute(Float32Array.from(positions), 3))
    .setAttribute('normal', new BufferAttribute(Float32Array.from(normals), 3))
}
