import type { Matrix4, Ray, Vector3 } from 'three'
import type { Frame } from '../../mesh/frame'
import type { ScreenPoint } from '../../math/screen'

/** A pointer over a picture of the level, as snapping needs to know it. */
export type Aim = {
  at: ScreenPoint
  /** From the eye through the pointer, of unit direction. */
  ray: Ray
  /** From the world to clip coordinates. */
  projection: Matrix4
  /** The square of the picture within some pixels of the pointer. */
  around: (pixels: number) => Frame
  /** Null behind the eye. */
  project: (point: Vector3) => ScreenPoint | null
  /** The ray from the eye through a point of the world, of unit direction. */
  sightTo: (point: Vector3) => Ray
  metresPerPixel: (point: Vector3) => number
}
