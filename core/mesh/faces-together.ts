import type { Placed } from './placed'
import { pairsOfLeaves } from './placed'

/** The cosine from which two faces look the same way. */
const SAME_WAY = Math.cos((0.5 * Math.PI) / 180)

/**
 * The area over which faces of two placed meshes lie on each other and look the same way, in square metres. Their
 * undersides are left out: what stands beside each other on one ground has them in one plane, and nobody sees them.
 *
 * @param apart no farther from each other than this, in metres
 */
export function facesTogether(a: Placed, b: Placed, apart: number): number {
  const [turnA, turnB] = [Math.sign(a.matrix.determinant()), Math.sign(b.matrix.determinant())]
  const [lowA, lowB] = [a.boxes[a.box(0) + 1]!, b.boxes[b.box(0) + 1]!]
  const isUnderside = ([, y]: Plane, at: number, low: number) => y < -SAME_WAY && at - low <= apart
  let sum = 0
  pairsOfLeaves(
    a,
    b,
    () => apart * apart,
    (leafA, leafB) => {
      const others = planesOf(b, leafB, turnB)
      if (others.length === 0) return
      planesOf(a, leafA, turnA).forEach(({ at: i, plane }) => {
        if (isUnderside(plane, a.corners[i + 1]!, lowA)) return
        for (const { at: j, plane: other } of others) {
          if (plane[0] * other[0] + plane[1] * other[1] + plane[2] * other[2] < SAME_WAY) continue
          if (
            Math.abs(
              plane[3] - (plane[0] * b.corners[j]! + plane[1] * b.corners[j + 1]! + plane[2] * b.corners[j + 2]!),
            ) > apart
          )
            continue
          if (!isUnderside(other, b.corners[j + 1]!, lowB)) sum += commonArea(a.corners, i, b.corners, j, plane)
        }
      })
    },
  )
  return sum
}

type Plane = readonly [x: number, y: number, z: number, distance: number]

/** The planes of the triangles of a leaf, and where their corners begin. */
function planesOf(of: Placed, leaf: number, turn: number): { at: number; plane: Plane }[] {
  const found: { at: number; plane: Plane }[] = []
  for (let k = of.tree.first[leaf]!; k < of.tree.first[leaf]! + of.tree.count[leaf]!; k++) {
    const plane = planeOf(of.corners, k * 9, turn)
    if (plane) found.push({ at: k * 9, plane })
  }
  return found
}

function planeOf(t: Float64Array, i: number, turn: number): Plane | null {
  const ux = t[i + 3]! - t[i]!,
    uy = t[i + 4]! - t[i + 1]!,
    uz = t[i + 5]! - t[i + 2]!
  const vx = t[i + 6]! - t[i]!,
    vy = t[i + 7]! - t[i + 1]!,
    vz = t[i + 8]! - t[i + 2]!
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  const length = Math.hypot(x, y, z) * turn
  return length === 0
    ? null
    : [x / length, y / length, z / length, (x * t[i]! + y * t[i + 1]! + z * t[i + 2]!) / length]
}

/** What two triangles cover together, seen along a direction (Sutherland and Hodgman 1974). */
function commonArea(
  a: Float64Array,
  i: number,
  b: Float64Array,
  j: number,
  [nx, ny, nz]: readonly [number, number, number, ...number[]],
): number {
  // Seen along the axis that the direction is nearest to, and made larger by as much as it is aslant.
  const main = Math.abs(nx) > Math.abs(ny) ? (Math.abs(nx) > Math.abs(nz) ? 0 : 2) : Math.abs(ny) > Math.abs(nz) ? 1 : 2
  const [p, q] = [(main + 1) % 3, (main + 2) % 3]
  const polygon = clipped(
    [0, 3, 6].map(k => [a[i + k + p]!, a[i + k + q]!]),
    [0, 3, 6].map(k => [b[j + k + p]!, b[j + k + q]!]),
  )
  return polygonArea(polygon) / Math.abs([nx, ny, nz][main]!)
}

export type Flat = readonly [number, number]

/** A polygon cut down to what is within a triangle. */
export function clipped(polygon: Flat[], triangle: Flat[]): Flat[] {
  const [[ax, ay], [bx, by], [cx, cy]] = triangle as [Flat, Flat, Flat]
  const turn = Math.sign((bx - ax) * (cy - ay) - (by - ay) * (cx - ax))
  let rest = polygon
  for (let side = 0; side < 3 && rest.length > 0; side++) {
    const [p, q] = [triangle[side]!, triangle[(side + 1) % 3]!]
    const [ex, ey] = [(q[0] - p[0]) * turn, (q[1] - p[1]) * turn]
    const inside = ([x, y]: Flat) => ex * (y - p[1]) - ey * (x - p[0])
    const cut: Flat[] = []
    rest.forEach((here, k) => {
      const there = rest[(k + 1) % rest.length]!
      const [s, t] = [inside(here), inside(there)]
      if (s >= 0) cut.push(here)
      if (s >= 0 !== t >= 0)
        cut.push([here[0] + ((there[0] - here[0]) * s) / (s - t), here[1] + ((there[1] - here[1]) * s) / (s - t)])
    })
    rest = cut
  }
  return rest
}

export function polygonArea(polygon: readonly Flat[]): number {
  let sum = 0
  polygon.forEach(([x, y], k) => {
    const [nx, ny] = polygon[(k + 1) % polygon.length]!
    sum += x * ny - y * nx
  })
  return Math.abs(sum) / 2
}
