import type { Matrix4 } from 'three'
import { Euler, MathUtils, Quaternion, Vector3 } from 'three'
import type { Quat, Vec3 } from './vectors'

const translation = new Vector3()
const rotation = new Quaternion()
const scale = new Vector3()
const shift = new Vector3()

/** Position of the pivot in metres, turn, size, and where the pivot is in the thing's own axes. */
export type Transform = { translation: Vec3, rotation: Quat, scale: Vec3, pivot: Vec3 }

/**
 * Writes the placement's matrix T · R · S · T(-pivot) into `target`: from its own axes to its parent's.
 * With the pivot put in, that is the plain TRS matrix whose translation is `nodeTranslation`.
 */
export function localMatrix(transform: Transform, target: Matrix4): Matrix4 {
  rotation.fromArray(transform.rotation)
  scale.fromArray(transform.scale)
  return target.compose(translation.fromArray(nodeTranslation(transform)), rotation, scale)
}

/**
 * The translation of a glTF node without a pivot that stands exactly where the placement stands:
 * T · R · S · T(-p) = T(t - R·S·p) · R · S.
 */
export function nodeTranslation({ translation: [x, y, z], rotation: turn, scale: size, pivot }: Transform): Vec3 {
  shift.fromArray(pivot).multiply(scale.fromArray(size)).applyQuaternion(rotation.fromArray(turn))
  return [x - shift.x, y - shift.y, z - shift.z]
}

/** Turn about X, Y and Z in degrees, applied in the order Y, X, Z (heading, then pitch, then roll). */
export function quatToDegrees(quat: Quat): Vec3 {
  const euler = new Euler().setFromQuaternion(rotation.fromArray(quat), 'YXZ')
  return [euler.x, euler.y, euler.z].map(MathUtils.radToDeg) as Vec3
}

/** The inverse of `quatToDegrees`. */
export function degreesToQuat([x, y, z]: Vec3): Quat {
  const euler = new Euler(MathUtils.degToRad(x), MathUtils.degToRad(y), MathUtils.degToRad(z), 'YXZ')
  return rotation.setFromEuler(euler).normalize().toArray() as Quat
}

/** Position, turn and size of a matrix around a pivot: T = m + R·S·p, m being the matrix's translation. */
export function decompose(matrix: Matrix4, pivot: Vec3): Omit<Transform, 'pivot'> {
  matrix.decompose(translation, rotation, scale)
  rotation.normalize()
  translation.add(shift.fromArray(pivot).multiply(scale).applyQuaternion(rotation))
  return { translation: translation.toArray(), rotation: rotation.toArray() as Quat, scale: scale.toArray() }
}

/** How much a matrix may differ from its parts put together again, relative to its size, and not count as skewed. */
export const SKEW_TOLERANCE = 1e-6

/** Whether a matrix differs from another by more than rounding, relative to the largest number of the first. */
export function differsFrom(a: Matrix4, b: Matrix4): boolean {
  const size = Math.max(...a.elements.map(Math.abs))
  return Math.max(...a.elements.map((value, i) => Math.abs(value - b.elements[i]!))) / size > SKEW_TOLERANCE
}
