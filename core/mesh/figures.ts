import { Matrix4, Vector3 } from 'three'
import type { Mesh } from './mesh'

/**
 * The area of a mesh's surface, once placed, in square metres: half the sum of the lengths of its triangles' cross
 * products.
 */
export function surfaceArea(mesh: Mesh, matrix = new Matrix4()): number {
  let sum = 0
  eachTriangle(mesh, matrix, (a, b, c) => {
    sum += b.sub(a).cross(c.sub(a)).length() / 2
  })
  return sum
}

/**
 * What a closed mesh encloses, once placed, in cubic metres: a sixth of the sum of the corners' triple products (the
 * divergence theorem).
 */
export function enclosedVolume(mesh: Mesh, matrix = new Matrix4()): number {
  let sum = 0
  eachTriangle(mesh, matrix, (a, b, c) => {
    sum += a.dot(b.cross(c)) / 6
  })
  return Math.abs(sum)
}

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

function eachTriangle(
  { primitives }: Mesh,
  matrix: Matrix4,
  visit: (a: Vector3, b: Vector3, c: Vector3) => void,
): void {
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()]
  for (const { positions, indices } of primitives) {
    for (let i = 0; i < indices.length; i += 3) {
      visit(
        a.fromArray(positions, indices[i]! * 3).applyMatrix4(matrix),
        b.fromArray(positions, indices[i + 1]! * 3).applyMatrix4(matrix),
        c.fromArray(positions, indices[i + 2]! * 3).applyMatrix4(matrix),
      )
    }
  }
}
