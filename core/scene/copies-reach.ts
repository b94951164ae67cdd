import { Box3, Matrix4 } from 'three'
import type { ShapeCopies } from './expand'

/**
 * Adds to a box of the world how far copies reach.
 *
 * @param toWorld from the axes that the copies' numbers are in
 * @param boxOf the box of a shape in its own axes; undefined while it is not there
 */
export function reachOfCopies(
  copies: readonly ShapeCopies[],
  toWorld: Matrix4,
  boxOf: (shape: string) => Box3 | undefined,
  target: Box3,
): void {
  const [matrix, box] = [new Matrix4(), new Box3()]
  for (const { shape, matrices } of copies) {
    const bounds = boxOf(shape)
    if (!bounds) continue
    for (let at = 0; at < matrices.length; at += 16)
      target.union(box.copy(bounds).applyMatrix4(matrix.fromArray(matrices, at).premultiply(toWorld)))
  }
}
