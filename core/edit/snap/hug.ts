import { Vector3 } from 'three'
import type { Finder } from '../../scene/finder'
import { UP } from '../handles/axes'
import type { Level } from '../../level/level'
import type { Operation } from '../../level/schema'
import type { IsGround, RestRule, Surface } from './rest'
import { Resting, surfaceBelow } from './rest'

/** A drag that follows the surface. */
export type HugRule = RestRule & {
  /** Ground alone, or everything that is in the way. */
  onto: 'ground' | 'everything'
}

/**
 * How far above a place its surface is looked for while hugging, in metres: as high as a step that a drag may climb.
 */
const LOOK_ABOVE = 1.5
/** And how far below. */
const LOOK_BELOW = 100

/** The surface the drag leads onto, where the leading thing is taken by `offset`; null over nothing. */
export function hugSurface(
  index: Finder,
  at: Vector3,
  height: number,
  accept: IsGround,
): (Surface & { id: string | null }) | null {
  const found = surfaceBelow(index, new Vector3(at.x, height + LOOK_ABOVE, at.z), LOOK_BELOW + LOOK_ABOVE, accept)
  return (
    found
    ?? (height + LOOK_ABOVE >= 0 ? { point: new Vector3(at.x, 0, at.z), normal: new Vector3(0, 1, 0), id: null } : null)
  )
}

/** Things that hug, with what is known of each for as long as it is not written. */
export class Hugging {
  private readonly known = new Map<string, Resting>()

  constructor(
    private readonly level: Level,
    readonly index: Finder,
  ) {}

  of(id: string): Resting {
    let found = this.known.get(id)
    if (!found?.isCurrent) this.known.set(id, (found = new Resting(this.level, this.index, id)))
    return found
  }
}

/**
 * The operations of a drag that hugs: the leading thing comes to rest on `surface`; each of the others goes as far in
 * plan and comes to rest on what is below it there.
 *
 * @param lead the thing that follows the pointer
 * @param tops all that are dragged, the leading one among them
 * @param accept leaves out what is not to be caught, at least everything dragged
 */
export function hug(
  hugging: Hugging,
  { lead, tops }: { lead: string; tops: readonly string[] },
  surface: Surface,
  { rule, accept }: { rule: HugRule; accept: IsGround },
): Operation[] {
  const { index } = hugging
  const way = surface.point.clone().sub(hugging.of(lead).pivot)
  return tops.map(id => {
    const thing = hugging.of(id)
    const place = thing.pivot.clone().add(way)
    const below = id === lead ? surface : hugSurface(index, place, place.y, accept)
    return below ? thing.putOn(below, rule) : thing.turnAndMove(UP, { ...rule, rest: 'pivot' }, way)
  })
}
