import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Level } from '../../level/level'
import type { Quat, Vec3 } from '../../math/vectors'
import type { ViewDirections } from './axis-drag'

/** Whose directions the handles follow. */
export const AXES_MODES = ['world', 'local', 'parent', 'view', 'surface', 'borrowed'] as const
export type AxesMode = (typeof AXES_MODES)[number]

export const UP: Readonly<Vector3> = new Vector3(0, 1, 0)

/** What the modes take their directions from. */
export type AxesSources = {
  view: ViewDirections
  /** The outer normal of the surface the last picked thing stands on, of unit length. */
  surface: Vector3
  borrowed: Quat
}

/** The three directions of a rotation, of unit length. */
export function directionsOf(rotation: Quaternion): [Vector3, Vector3, Vector3] {
  return [new Vector3(1, 0, 0), new Vector3(0, 1, 0), new Vector3(0, 0, 1)].map(axis =>
    axis.applyQuaternion(rotation),
  ) as [Vector3, Vector3, Vector3]
}

/**
 * The axes of a mode, as the rotation from the world's axes to them.
 * Local, Parent and Surface are those of the last picked thing.
 */
export function axesOf(
  mode: AxesMode,
  level: Level,
  last: string,
  { view, surface, borrowed }: AxesSources,
): Quaternion {
  switch (mode) {
    case 'world':
      return new Quaternion()
    case 'local':
      return localAxes(level, last)
    case 'parent': {
      const { parentId } = level.need(last)
      return parentId === null ? new Quaternion() : localAxes(level, parentId)
    }
    case 'view':
      return rotationFromAxes(view.right, view.up)
    case 'surface':
      return surfaceAxes(surface, directionsOf(localAxes(level, last))[0])
    case 'borrowed':
      return new Quaternion(...borrowed)
  }
}

/**
 * A thing's own axes in the world. A mirrored thing's point the way its turn alone says; a skewed one's are the nearest
 * at right angles.
 */
export function localAxes(level: Level, id: string): Quaternion {
  const { scale, parentId, rotation } = level.need(id)
  return parentId === null ? new Quaternion(...rotation) : axesOfMatrix(level.worldMatrix(id), scale)
}

/** The same of a world matrix. @param scale of the thing itself: what is turned over points the other way */
export function axesOfMatrix(matrix: Matrix4, scale: Vec3): Quaternion {
  const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
  matrix.extractBasis(x, y, z)
  return rotationFromAxes(x.multiplyScalar(Math.sign(scale[0])), y.multiplyScalar(Math.sign(scale[1])))
}

/** Up along the surface's normal, X as near as it can be to where it points now. */
export function surfaceAxes(normal: Vector3, towards: Vector3): Quaternion {
  let x = towards.clone().addScaledVector(normal, -towards.dot(normal))
  if (x.lengthSq() < 1e-9) x = new Vector3(0, 0, 1).addScaledVector(normal, -normal.z)
  return rotationFromAxes(x, normal)
}

/**
 * Axes through three points: X from the first to the second, Y at right angles towards the third. Null if they lie on
 * one line.
 */
export function axesFromPoints(first: Vector3, second: Vector3, third: Vector3): Quaternion | null {
  const x = second.clone().sub(first)
  const y = third.clone().sub(first)
  if (x.clone().cross(y).length() < 1e-9 * Math.max(x.lengthSq(), y.lengthSq())) return null
  return rotationFromAxes(x, y)
}

/** The rotation whose X lies along `x` and whose Y is as near to `y` as right angles allow (Gram and Schmidt). */
export function rotationFromAxes(x: Vector3, y: Vector3): Quaternion {
  const first = x.clone().normalize()
  const third = first.clone().cross(y).normalize()
  return new Quaternion()
    .setFromRotationMatrix(new Matrix4().makeBasis(first, third.clone().cross(first), third))
    .normalize()
}
