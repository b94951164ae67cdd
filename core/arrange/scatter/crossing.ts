import type { Vec3 } from '../../math/vectors'

/**
 * Two axes of the plane that a closed line lies in, as nearly as it does, and its normal (Newell's sum); from above
 * where it has no area.
 */
export function planeOf(points: readonly Vec3[]): { u: Vec3; v: Vec3; n: Vec3 } {
  let [x, y, z] = [0, 0, 0]
  for (let i = 0; i < points.length; i++) {
    const [a, b] = [points[i]!, points[(i + 1) % points.length]!]
    x += (a[1] - b[1]) * (a[2] + b[2])
    y += (a[2] - b[2]) * (a[0] + b[0])
    z += (a[0] - b[0]) * (a[1] + b[1])
  }
  const length = Math.sqrt(x * x + y * y + z * z)
  const n: Vec3 = length < 1e-12 ? [0, 1, 0] : [x / length, y / length, z / length]
  // Beside the axis that the normal is farthest from.
  const [p, q, r] = [Math.abs(n[0]), Math.abs(n[1]), Math.abs(n[2])]
  const beside: Vec3 = p <= q && p <= r ? [1, 0, 0] : r <= q ? [0, 0, 1] : [0, 1, 0]
  const u = unit(cross(n, beside))
  return { u, v: cross(n, u), n }
}

const cross = (a: Vec3, b: Vec3): Vec3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
const unit = ([x, y, z]: Vec3): Vec3 => {
  const length = Math.sqrt(x * x + y * y + z * z)
  return [x / length, y / length, z / length]
}

/** Whether two sides of a closed line cross each other, seen at right angles to the plane it lies in. */
export function crossing(points: readonly Vec3[]): boolean {
  const { u, v } = planeOf(points)
  const flat = points.map(([x, y, z]): readonly [number, number] => [
    x * u[0] + y * u[1] + z * u[2],
    x * v[0] + y * v[1] + z * v[2],
  ])
  const count = flat.length
  const turn = (a: readonly [number, number], b: readonly [number, number], c: readonly [number, number]) =>
    Math.sign((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))
  for (let i = 0; i < count; i++) {
    const [a, b] = [flat[i]!, flat[(i + 1) % count]!]
    for (let k = i + 2; k < count; k++) {
      if (i === 0 && k === count - 1) continue
      const [c, d] = [flat[k]!, flat[(k + 1) % count]!]
      if (turn(a, b, c) * turn(a, b, d) < 0 && turn(c, d, a) * turn(c, d, b) < 0) return true
    }
  }
  return false
}
