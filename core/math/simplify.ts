import type { Vec3 } from './vectors'

/**
 * A line with fewer points, none of those left out farther from it than a tolerance (Douglas and Peucker 1973). The
 * ends stay.
 */
export function simplified(points: readonly Vec3[], tolerance: number): Vec3[] {
  if (points.length < 3) return [...points]
  const kept = new Set([0, points.length - 1])
  const waiting: [number, number][] = [[0, points.length - 1]]
  for (let span = waiting.pop(); span; span = waiting.pop()) {
    const [from, to] = span
    let [far, most] = [0, tolerance]
    for (let i = from + 1; i < to; i++) {
      const distance = distanceToSide(points[i]!, points[from]!, points[to]!)
      if (distance > most) [far, most] = [i, distance]
    }
    if (far === 0) continue
    kept.add(far)
    waiting.push([from, far], [far, to])
  }
  return points.filter((_, i) => kept.has(i))
}

/** Metres from a point to the line between two others, ends included. */
function distanceToSide(point: Vec3, a: Vec3, b: Vec3): number {
  const side = b.map((value, k) => value - a[k]!) as Vec3
  const from = point.map((value, k) => value - a[k]!) as Vec3
  const length = side[0] ** 2 + side[1] ** 2 + side[2] ** 2
  const t =
    length === 0 ? 0 : Math.min(Math.max((from[0] * side[0] + from[1] * side[1] + from[2] * side[2]) / length, 0), 1)
  return Math.hypot(from[0] - t * side[0], from[1] - t * side[1], from[2] - t * side[2])
}
