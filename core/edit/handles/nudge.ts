import type { Quaternion } from 'three'
import { Vector3 } from 'three'
import type { ViewKind } from '../../math/pose'
import { directionsOf, UP } from './axes'
import type { ViewDirections } from './axis-drag'

/** What an arrow key asks for, as seen on the screen. */
export type NudgeWay = 'right' | 'left' | 'up' | 'down' | 'higher' | 'lower'

/**
 * The direction a nudge goes: the axis that lies nearest to what the key says on the screen.
 *
 * In Walkaround the arrows up and down go away and nearer over the ground and the page keys higher and lower; in the
 * fixed views the arrows go up and down the screen and the page keys away and nearer. No two of the three pairs share
 * an axis.
 *
 * @returns of unit length, in the world
 */
export function nudgeDirection(way: NudgeWay, kind: ViewKind, view: ViewDirections, axes: Quaternion): Vector3 {
  const { right, up, forward } = view
  const wanted = kind === 'walkaround' ? [right, flat(forward, up), UP] : [right, up, forward]
  const left = new Set([0, 1, 2])
  const directions = directionsOf(axes)
  // The vertical is settled first in Walkaround, since it is never in doubt there.
  const order = kind === 'walkaround' ? [2, 0, 1] : [0, 1, 2]
  const chosen: Vector3[] = []
  for (const which of order) {
    const axis = [...left].sort(
      (a, b) => Math.abs(directions[b]!.dot(wanted[which]!)) - Math.abs(directions[a]!.dot(wanted[which]!)),
    )[0]!
    left.delete(axis)
    chosen[which] = directions[axis]!.clone().multiplyScalar(directions[axis]!.dot(wanted[which]!) < 0 ? -1 : 1)
  }
  const [pair, sign] = (
    { right: [0, 1], left: [0, -1], up: [1, 1], down: [1, -1], higher: [2, 1], lower: [2, -1] } as const
  )[way]
  return chosen[pair]!.multiplyScalar(sign)
}

/** Away from the viewer over the ground; straight down, that is up the screen. */
function flat(forward: Vector3, up: Vector3): Vector3 {
  const away = new Vector3(forward.x, 0, forward.z)
  return away.lengthSq() > 1e-6 ? away.normalize() : new Vector3(up.x, 0, up.z).normalize()
}
