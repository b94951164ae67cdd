import { Quaternion, Ray, Vector3 } from 'three'
import type { LevelIndex } from '../../scene/level-index'
import { UP } from '../handles/axes'
import { pivotOf } from '../handles/pivot'
import { moveTops } from '../handles/move'
import { turnPlacements } from '../handles/turn'
import type { Level } from '../../level/level'
import type { Operation } from '../../level/schema'

/**
 * What touches the surface: the pivot; the lowest point of the thing and all that hangs from it, its other side dug into a slope; or
 * whatever touches first, so that nothing of it is below the surface.
 */
export const RESTS = ['pivot', 'lowest', 'clear'] as const
export type Rest = (typeof RESTS)[number]

/** How things come to rest on a surface. */
export type RestRule = {
  rest: Rest
  /** Laid along the surface instead of keeping the turn it has. */
  leaning: boolean
  /** Metres kept between thing and surface. */
  offset: number
}

export type Surface = { point: Vector3, normal: Vector3 }

/** Whether a placement's shape may be rested on. */
export type IsGround = (id: string) => boolean

/** A surface steeper than this is a wall: things stand off it instead of on it. */
export const WALL = 0.02

/**
 * Where a placement comes to rest on a surface: the turn and the move that bring it there.
 *
 * Upright, it keeps its turn, and its lowest point is at the height of the surface's point, or none of its points below the surface's plane. Leaning, that of its own axes
 * that points up most is laid along the surface's normal, by the smallest turn, and its lowest point is on the surface's plane.
 * In plan its pivot stays over the surface's point, unless the surface is a wall.
 */
export function restOn(level: Level, index: LevelIndex, id: string, { point, normal }: Surface, { rest, leaning, offset }: RestRule): { turn: Quaternion, move: Vector3 } {
  const pivot = pivotOf(level, id)
  const turn = leaning ? new Quaternion().setFromUnitVectors(uppermost(level, id), normal) : new Quaternion()
  const contact = leaning || rest === 'clear' || normal.y <= WALL ? normal : UP.clone()
  // How far below its pivot the thing reaches, once turned.
  const down = contact.clone().negate().applyQuaternion(turn.clone().invert())
  const lowest = rest !== 'pivot' ? index.extents.extreme(level.subtree(id), down) : null
  const reach = (lowest ? lowest.reach - pivot.dot(down) : 0) + offset
  const target = point.clone()
  if (contact.y > 0.5) target.y += reach / contact.y
  else target.addScaledVector(contact, reach)
  return { turn, move: target.sub(pivot) }
}

/** That of a placement's own six directions that points up most, in the world. */
function uppermost(level: Level, id: string): Vector3 {
  const axes = [new Vector3(), new Vector3(), new Vector3()] as const
  level.worldMatrix(id).extractBasis(...axes)
  return axes.map(axis => axis.normalize()).map(axis => axis.y < 0 ? axis.negate() : axis).sort((a, b) => b.y - a.y)[0]!
}

/** The operations that turn a placement around its pivot and then move it, both in the world, as one put. */
export function turnAndMove(level: Level, id: string, turn: Quaternion, move: Vector3): Operation {
  const [moved] = moveTops(level, [id], move)
  const [turned] = turn.w === 1 ? [] : turnPlacements(level, [id], turn, null)
  const fieldsOf = (operation: Operation | undefined) => operation?.do === 'put' ? operation.fields : {}
  return { do: 'put', id, fields: { ...fieldsOf(turned), ...fieldsOf(moved) } }
}

/** What lies straight below a point, no farther than `reach` metres. */
export function surfaceBelow(index: LevelIndex, from: Vector3, reach: number, accept: IsGround): (Surface & { id: string }) | null {
  const hit = index.raycast(new Ray(from.clone(), new Vector3(0, -1, 0)), accept)
  if (!hit || hit.distance > reach) return null
  // Meshes hold single precision; a crate on a slab at 0.39 should stand at 0.39.
  hit.point.set(...hit.point.toArray().map(value => Math.round(value * 1e6) / 1e6) as [number, number, number])
  return hit
}
