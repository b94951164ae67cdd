import type { Matrix4 } from 'three'
import { Quaternion, Vector3 } from 'three'
import type { TransformRow } from '../level/edit'
import { changeTransformNumber } from '../level/edit'
import type { Level } from '../level/level'
import type { Operation, Placement } from '../level/schema'
import { degreesToQuat, quatToDegrees } from '../math/transform'
import type { Quat, Vec3 } from '../math/vectors'
import { tidy } from '../units/quantity'
import { axesOfMatrix } from './handles/axes'
import { movePlacements } from './handles/move'
import { turnPlacements } from './handles/turn'

/**
 * A placement's numbers in the world's axes: where its pivot is, in metres, and how it is turned, in degrees; its size
 * as factors of its own.
 */
export function worldNumbers(
  { pivot, scale }: Pick<Placement, 'pivot' | 'scale'>,
  matrix: Matrix4,
): Record<TransformRow, Vec3> {
  return {
    position: new Vector3(...pivot).applyMatrix4(matrix).toArray().map(tidy) as Vec3,
    turn: quatToDegrees(axesOfMatrix(matrix, scale).toArray() as Quat).map(tidy) as Vec3,
    size: scale,
  }
}

/**
 * The operations that change one number of a placement, as it is in the world's axes, and leave all others as they are
 * there.
 * @param next makes the new number of the one that is there
 */
export function changeWorldNumber(
  level: Level,
  id: string,
  row: TransformRow,
  axis: 0 | 1 | 2,
  next: (now: number, id: string) => number,
): Operation[] {
  if (row === 'size') return changeTransformNumber(level, [id], row, axis, next)
  const now = worldNumbers(level.need(id), level.worldMatrix(id))[row]
  const changed = now.with(axis, next(now[axis], id)) as Vec3
  if (row === 'position') return movePlacements(level, [id], new Vector3(...changed).sub(new Vector3(...now)))
  const [from, to] = [now, changed].map(degrees => new Quaternion(...degreesToQuat(degrees)))
  return turnPlacements(level, [id], to!.multiply(from!.invert()), null)
}
