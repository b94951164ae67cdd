import type { Matrix4 } from 'three'
import { Vector3 } from 'three'
import type { CameraOwn } from '~~/core/level/kinds/camera'
import type { Pose } from '~~/core/math/pose'
import type { Lens } from './view'

/** How far before a camera without an aim it is said to look, in metres. */
const BEFORE = 6

/**
 * How a view looks through a camera that stands so, mirrored or skewed by what it hangs from or not.
 *
 * @param target what it aims at
 */
export function throughCamera(
  own: CameraOwn,
  matrix: Matrix4,
  target: Vector3 | null,
  height = 10,
): { pose: Pose; lens: Lens } {
  const eye = new Vector3().setFromMatrixPosition(matrix)
  const way = new Vector3(0, 0, -1).transformDirection(matrix)
  const pose = {
    eye,
    target: eye.clone().addScaledVector(way, Math.max(target?.distanceTo(eye) ?? BEFORE, 0.1)),
    height,
  }
  const { fieldOfView, aspect, near, far } = own
  return {
    pose,
    lens: { fieldOfView, aspect, near, far, roll: rollOf(new Vector3(0, 1, 0).transformDirection(matrix), way) },
  }
}

/** By how much a camera is turned about its own sight, from where its Y would be upright. */
function rollOf(up: Vector3, way: Vector3): number {
  const level = way.clone().cross(new Vector3(0, 1, 0))
  if (level.lengthSq() < 1e-9) return 0
  level.normalize()
  return Math.atan2(-level.dot(up), level.dot(way.clone().cross(up)))
}
