import { Vector3 } from 'three'
import type { LevelIndex } from '../../scene/level-index'
import { pivotOf } from '../handles/pivot'
import type { LevelView } from '../../scene/level-view'
import type { Operation } from '../../level/schema'
import { topmost } from '../../level/tree'
import type { RestRule, Surface } from './rest'
import { Resting, surfaceBelow, WALL } from './rest'
import { movingWith } from '../../scene/copies'

/** From how far above a thing its ground is looked for, and how far below; in metres. */
export type SetDownLimits = { above: number; below: number }

/** Look from 1 m above, at most 10 m down: farther than that it is probably not the ground meant (common practice). */
export const SET_DOWN_LIMITS: SetDownLimits = { above: 1, below: 10 }

export type SetDown = {
  operations: Operation[]
  /** Those that have come to rest, also if they rested already. */
  down: string[]
  /** Those with nothing below them within the limits; they stay where they are. */
  without: string[]
}

/**
 * Lets placements down, each by itself, onto the first surface below that is neither its own nor of anything else
 * picked. Looking from above, a thing that has sunk into the ground by less than `above` comes up again.
 */
export function setDown(
  level: LevelView,
  index: LevelIndex,
  ids: ReadonlySet<string>,
  rule: RestRule,
  { above, below } = SET_DOWN_LIMITS,
): SetDown {
  const tops = topmost(level, ids)
  const picked = movingWith(level, tops)
  const result: SetDown = { operations: [], down: [], without: [] }
  const DOWN = new Vector3(0, -1, 0)
  const isGround = (other: string) => !picked.has(other)
  const heightBelow = (x: number, y: number, z: number) =>
    surfaceBelow(index, new Vector3(x, y, z), above + below, isGround)?.point.y ?? null
  for (const id of tops) {
    const lowest = rule.rest !== 'pivot' ? index.extents.extreme(level.subtree(id), DOWN) : null
    const foot = lowest?.middle ?? pivotOf(level, id)
    const ground = surfaceBelow(index, foot.clone().setY(foot.y + above), above + below, isGround)
    if (!ground) {
      result.without.push(id)
      continue
    }
    const thing = new Resting(level, index, id)
    const { turn, move } = thing.on({ ...ground, point: inPlaneOver(ground, thing.pivot) }, rule)
    if (rule.rest === 'clear' && !rule.leaning)
      move.set(
        0,
        clearance(index, level.subtree(id), ground.normal, (x, y, z) => heightBelow(x, y + above, z)) + rule.offset,
        0,
      )
    result.down.push(id)
    if (move.lengthSq() > 1e-18 || turn.w !== 1) result.operations.push(thing.turnAndMove(ground.normal, rule, move))
  }
  return result
}

/** The point of a surface's plane straight over or under a place; of a wall its own. */
function inPlaneOver({ point, normal }: Surface, { x, z }: Vector3): Vector3 {
  return normal.y < WALL
    ? point
    : new Vector3(x, point.y - (normal.x * (x - point.x) + normal.z * (z - point.z)) / normal.y, z)
}

/**
 * How far things have to be lifted so that nothing of their undersides is below the ground and something touches it.
 *
 * @param normal of the ground, roughly: what reaches farthest against it is looked at
 * @param heightAt of the ground below a place; null where there is none
 */
function clearance(
  index: LevelIndex,
  ids: readonly string[],
  normal: Vector3,
  heightAt: (x: number, y: number, z: number) => number | null,
): number {
  let lift = -Infinity
  for (const { x, y, z } of index.extents.underside(ids, normal))
    lift = Math.max(lift, (heightAt(x, y, z) ?? -Infinity) - y)
  return lift === -Infinity ? 0 : lift
}
