import { Vector3 } from 'three'
import type { LevelIndex } from '../../scene/level-index'
import { pivotOf } from '../handles/pivot'
import type { Level } from '../../level/level'
import type { Operation } from '../../level/schema'
import type { IsGround, RestRule, Surface } from './rest'
import { restOn, surfaceBelow, turnAndMove } from './rest'

/** A drag that follows the surface. */
export type HugRule = RestRule & {
  /** Ground alone, or everything that is in the way. */
  onto: 'ground' | 'everything'
}

/** How far above a place its surface is looked for while hugging, in metres: as high as a step that a drag may climb. */
const LOOK_ABOVE = 1.5
/** And how far below. */
const LOOK_BELOW = 100

/** The surface the drag leads onto, where the leading thing is taken by `offset`; null over nothing. */
export function hugSurface(index: LevelIndex, at: Vector3, height: number, accept: IsGround): (Surface & { id: string | null }) | null {
  const found = surfaceBelow(index, new Vector3(at.x, height + LOOK_ABOVE, at.z), LOOK_BELOW + LOOK_ABOVE, accept)
  return found ?? (height + LOOK_ABOVE >= 0 ? { point: new Vector3(at.x, 0, at.z), normal: new Vector3(0, 1, 0), id: null } : null)
}

/**
 * The operations of a drag that hugs: the leading thing comes to rest on `surface`; each of the others goes as far in plan and
 * comes to rest on what is below it there.
 *
 * @param lead the thing that follows the pointer
 * @param tops all that are dragged, the leading one among them
 * @param accept leaves out what is not to be caught, at least everything dragged
 */
export function hug(level: Level, index: LevelIndex, lead: string, tops: readonly string[], surface: Surface, rule: HugRule, accept: IsGround): Operation[] {
  const from = pivotOf(level, lead)
  const way = surface.point.clone().sub(from)
  return tops.map((id) => {
    const place = pivotOf(level, id).add(way)
    const below = id === lead ? surface : hugSurface(index, place, place.y, accept)
    if (!below) return turnAndMove(level, id, restOn(level, index, id, { point: place, normal: new Vector3(0, 1, 0) }, { ...rule, rest: 'pivot' }).turn, way)
    const { turn, move } = restOn(level, index, id, below, rule)
    return turnAndMove(level, id, turn, move)
  })
}
