import type { CameraOwn } from '../../level/kinds/camera'
import type { LightOwn } from '../../level/kinds/light'
import type { Mesh } from '../../mesh/mesh'

/** A node of a file's tree. Its translation, rotation (a quaternion) and scale go from its own axes to its parent's. */
export type SceneNode = {
  name: string
  translation?: readonly number[]
  rotation?: readonly number[]
  scale?: readonly number[]
  /** The number of the mesh it shows. */
  mesh?: number
  camera?: CameraOwn
  /** A light, and by what it is multiplied. */
  light?: { own: LightOwn; strength: number }
  /** The mesh is shown at each of these places instead of once. */
  instances?: Instances
  /** What else is to be known of it, as JSON. */
  extras?: Record<string, unknown>
}

/**
 * Places of copies: three numbers for each translation, four for each rotation, three for each scale, and which copy
 * each is.
 */
export type Instances = {
  translations: Float32Array
  rotations: Float32Array
  scales: Float32Array
  copies: Float32Array
}

/** A file that a level's tree is written to, whatever its format. */
export type SceneFile = {
  readonly nodeCount: number
  /** Bytes written so far. */
  readonly bytes: number
  /** @returns the node's number; below a parent, or at the top if null */
  addNode: (parent: number | null, node: SceneNode) => Promise<number>
  /** @returns the mesh's number */
  addMesh: (name: string, mesh: Mesh, extras?: Record<string, unknown>) => Promise<number>
}
