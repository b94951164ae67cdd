import { Matrix3, Matrix4, Quaternion, Vector3 } from 'three'
import type { PointOn } from '../level/fields'
import { isCamera, isLight } from '../level/kinds'
import type { Quat, Vec3 } from '../math/vectors'
import { copyOf } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'

/** Nearer than this, in metres, nothing can be turned to a point. */
const TOO_NEAR = 1e-6

/** What a camera or a light stays turned to; null for anything else. */
export function aimOf(own: object): PointOn | null {
  return isCamera(own) || isLight(own) ? own.aim : null
}

/**
 * The turn in its parent's axes with which -Z of something points to a place, and its Y up as far as that goes: also
 * where what it hangs from is mirrored or sized unevenly.
 *
 * Of the matrix A·R·S of something below A, R is wanted. A·R·S·(-Z) points along the way w where R·Z lies along the
 * inverse of A times -w; and Y stays in the plane of w and of up where R·Y is at right angles to the transpose of A
 * times w × up.
 *
 * @param eye and `target` in the world
 * @param above from the parent's axes to the world
 * @param size its own; only the signs matter
 * @param roll radians that it is turned by about its own sight
 * @returns null if they are too near, or nothing below the parent has a direction
 */
export function turnTo(eye: Vector3, target: Vector3, above: Matrix4, size: Vec3 = [1, 1, 1], roll = 0): Quat | null {
  if (eye.distanceTo(target) < TOO_NEAR) return null
  const way = target.clone().sub(eye).normalize()
  const level = way
    .clone()
    .cross(Math.abs(way.y) > 0.99999 ? new Vector3(0, 0, -1) : new Vector3(0, 1, 0))
    .normalize()
  const up = level.cross(way).applyAxisAngle(way, -roll)
  const linear = new Matrix3().setFromMatrix4(above)
  if (Math.abs(linear.determinant()) < Number.MIN_VALUE) return null
  const back = way
    .clone()
    .negate()
    .applyMatrix3(linear.clone().invert())
    .normalize()
    .multiplyScalar(size[2] < 0 ? -1 : 1)
  const across = way.clone().cross(up).applyMatrix3(linear.clone().transpose())
  const over = back.clone().cross(across).normalize()
  if (over.clone().applyMatrix3(linear).dot(up) * (size[1] < 0 ? -1 : 1) < 0) over.negate()
  const turn = new Quaternion()
    .setFromRotationMatrix(new Matrix4().makeBasis(over.clone().cross(back), over, back))
    .normalize()
  return Number.isFinite(turn.w) ? (turn.toArray() as Quat) : null
}

/** Where an aim is, as things are moved. */
export function placeOf(
  level: LevelView,
  { at, on, point }: PointOn,
  moved: ReadonlyMap<string, Matrix4> = new Map(),
): Vector3 {
  if (on === null || !level.has(on)) return new Vector3(...at)
  const arrangement = copyOf(on)?.arrangementId
  if (arrangement !== undefined && moved.has(arrangement)) {
    return new Vector3(...point)
      .applyMatrix4(level.worldMatrix(on))
      .applyMatrix4(level.worldMatrix(arrangement).clone().invert())
      .applyMatrix4(moved.get(arrangement)!)
  }
  return new Vector3(...point).applyMatrix4(moved.get(on) ?? level.worldMatrix(on))
}
