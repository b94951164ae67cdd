import { Vector3 } from 'three'
import type { LevelIndex } from '../../scene/level-index'
import { pivotOf } from '../handles/pivot'
import type { LevelView } from '../../scene/level-view'
import type { Operation } from '../../level/schema'
import { topmost } from '../../level/tree'
import type { RestRule } from './rest'
import { restOn, surfaceBelow, turnAndMove } from './rest'
import { movingWith } from '../../scene/copies'

/** From how far above a thing its ground is looked for, and how far below; in metres. */
export type SetDownLimits = { above: number, below: number }

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
 * Lets placements down, each by itself, onto the first surface below that is neither its own nor of anything else picked.
 * Looking from above, a thing that has sunk into the ground by less than `above` comes up again.
 */
export function setDown(level: LevelView, index: LevelIndex, ids: ReadonlySet<string>, rule: RestRule, { above, below } = SET_DOWN_LIMITS): SetDown {
  const tops = topmost(level, ids)
  const picked = movingWith(level, tops)
  const result: SetDown = { operations: [], down: [], without: [] }
  const DOWN = new Vector3(0, -1, 0)
  for (const id of tops) {
    const lowest = rule.rest === 'lowest' ? index.extents.extreme(level.subtree(id), DOWN) : null
    const foot = lowest?.middle ?? pivotOf(level, id)
    const ground = surfaceBelow(index, foot.clone().setY(foot.y + above), above + below, other => !picked.has(other))
    if (!ground) {
      result.without.push(id)
      continue
    }
    const pivot = pivotOf(level, id)
    const { turn, move } = restOn(level, index, id, { ...ground, point: ground.point.clone().setX(pivot.x).setZ(pivot.z) }, rule)
    result.down.push(id)
    if (move.lengthSq() > 1e-18 || turn.w !== 1) result.operations.push(turnAndMove(level, id, turn, move))
  }
  return result
}
