import type { Matrix4 } from 'three'
import { Euler, MathUtils, Quaternion, Vector3 } from 'three'
import type { Placement, Quat, Vec3 } from './schema'

const translation = new Vector3()
const rotation = new Quaternion()
const scale = new Vector3()
const shift = new Vector3()

type Transform = Pick<Placement, 'translation' | 'rotation' | 'scale' | 'pivot'>

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
