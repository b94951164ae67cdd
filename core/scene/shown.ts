import type { Box3, Matrix4 } from 'three'
import { Vector3 } from 'three'
import type { Solid } from '../mesh/solid'

/**
 * Something shown: a placement with a mesh, or one copy of an arrangement, with its id. Treat its matrix as read-only.
 */
export type Shown = { id: string; copy?: string; solid: Solid; readonly matrix: Matrix4 }

/** The corners of the box of something shown, along its own axes, in the world. */
export function cornersOf({ solid, matrix }: Pick<Shown, 'solid' | 'matrix'>): Vector3[] {
  return boxCorners(solid.bounds).map(corner => corner.applyMatrix4(matrix))
}

/** The eight corners of a box. */
export function boxCorners({ min, max }: Box3): Vector3[] {
  return [min.x, max.x].flatMap(x => [min.y, max.y].flatMap(y => [min.z, max.z].map(z => new Vector3(x, y, z))))
}
