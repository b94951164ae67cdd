import { Vector3 } from 'three'

/**
 * The area and the normal of a loop of points: half the sum of their cross products (Newell). `normal` of unit length,
 * 0 if they are in a line.
 */
export function loopArea(points: readonly Vector3[]): { area: number; normal: Vector3 } {
  const sum = new Vector3()
  points.forEach((point, i) =>
    sum.add(
      point
        .clone()
        .sub(points[0]!)
        .cross(points[(i + 1) % points.length]!.clone().sub(points[0]!)),
    ),
  )
  const length = sum.length()
  return { area: length / 2, normal: length > 0 ? sum.divideScalar(length) : sum }
}
