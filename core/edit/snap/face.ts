import { Quaternion, Vector3 } from 'three'
import { localAxes, rotationFromAxes, UP } from '../handles/axes'
import { pivotOf } from '../handles/pivot'
import { turnPlacements } from '../handles/turn'
import type { Level } from '../../level/level'
import type { Operation, Placement } from '../../level/schema'
import { topmost } from '../../level/tree'

/**
 * The operations that turn placements so that their fronts point towards a point, or in a direction.
 *
 * The front of a thing is its +Z, that of a camera or a light its -Z, as in glTF. A thing that stands at the point
 * already stays as it is.
 *
 * @param upright turns about the vertical alone, as far as that brings the front round
 */
export function facePlacements(
  level: Level,
  ids: Iterable<string>,
  target: { point: Vector3 } | { direction: Vector3 },
  upright: boolean,
): Operation[] {
  return topmost(level, new Set(ids)).flatMap(id => {
    const towards = 'point' in target ? target.point.clone().sub(pivotOf(level, id)) : target.direction.clone()
    const turn = turnTowards(level, id, towards, upright)
    return turn ? turnPlacements(level, [id], turn, null) : []
  })
}

function turnTowards(level: Level, id: string, towards: Vector3, upright: boolean): Quaternion | null {
  return turnOfFront(localAxes(level, id), level.need(id).kind, towards, upright)
}

/**
 * The turn that brings a thing's front to look towards something, in the world: upright about the vertical alone.
 *
 * @param axes the thing's own in the world
 * @returns null if there is no such turn
 */
export function turnOfFront(
  axes: Quaternion,
  kind: Placement['kind'],
  towards: Vector3,
  upright: boolean,
): Quaternion | null {
  const sign = kind === 'camera' || kind === 'light' ? -1 : 1
  const front = new Vector3(0, 0, sign).applyQuaternion(axes)
  if (upright) {
    if (Math.hypot(towards.x, towards.z) < 1e-9 || Math.hypot(front.x, front.z) < 1e-9) return null
    const angle = Math.atan2(towards.x, towards.z) - Math.atan2(front.x, front.z)
    return new Quaternion().setFromAxisAngle(UP, angle)
  }
  if (towards.lengthSq() < 1e-18) return null
  const z = towards.clone().normalize().multiplyScalar(sign)
  const x = UP.clone().cross(z)
  // Straight up or down there is no heading to keep but the one it has.
  if (x.lengthSq() < 1e-12) x.set(1, 0, 0).applyQuaternion(axes)
  const y = z.clone().cross(x)
  return rotationFromAxes(y.clone().cross(z), y).multiply(axes.clone().invert())
}
