import { Matrix4, Quaternion, Vector3 } from 'three'
import type { CameraOwn } from '~~/core/level/kinds/camera'
import type { Pose } from '~~/core/math/pose'
import type { Lens } from './view'

/** How far before a camera without an aim it is said to look, in metres. */
const BEFORE = 6

/** How a view looks through a camera that stands so. @param target what it aims at */
export function throughCamera(own: CameraOwn, matrix: Matrix4, target: Vector3 | null, height = 10): { pose: Pose, lens: Lens } {
  const [eye, turn] = [new Vector3(), new Quaternion()]
  matrix.decompose(eye, turn, new Vector3())
  turn.normalize()
  const way = new Vector3(0, 0, -1).applyQuaternion(turn)
  const pose = { eye, target: eye.clone().addScaledVector(way, Math.max(target?.distanceTo(eye) ?? BEFORE, 0.1)), height }
  const { fieldOfView, aspect, near, far } = own
  return { pose, lens: { fieldOfView, aspect, near, far, roll: rollOf(turn, way) } }
}

/** By how much a camera is turned about its own sight, from where its X would be level. */
function rollOf(turn: Quaternion, way: Vector3): number {
  const level = way.clone().cross(new Vector3(0, 1, 0))
  if (level.lengthSq() < 1e-9) return 0
  const right = new Vector3(1, 0, 0).applyQuaternion(turn)
  const up = new Vector3(0, 1, 0).applyQuaternion(turn)
  level.normalize()
  return Math.atan2(-level.dot(up), level.dot(right))
}

/** How a camera stands that sees what a view sees, its roll kept, in the world. */
export function cameraAt({ eye, target }: Pose, roll: number): { position: Vector3, turn: Quaternion } {
  const way = target.clone().sub(eye).normalize()
  const right = way.clone().cross(new Vector3(0, 1, 0)).normalize()
  const up = right.clone().cross(way)
  const turn = new Quaternion().setFromRotationMatrix(new Matrix4().makeBasis(right, up, way.clone().negate()))
  return { position: eye.clone(), turn: turn.multiply(new Quaternion().setFromAxisAngle(new Vector3(0, 0, 1), roll)).normalize() }
}
