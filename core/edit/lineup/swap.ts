import { Vector3 } from 'three'
import type { Level } from '../../level/level'
import type { Operation } from '../../level/schema'
import { moveTops } from '../handles/move'

/**
 * The operations that let things change places, pivot to pivot: two with each other, more of them each to the next
 * one's place. Turn and size stay with the things.
 *
 * @param ids of which none hangs below another
 */
export function swapPlaces(level: Level, ids: readonly string[]): Operation[] {
  const pivots = ids.map(id => new Vector3(...level.need(id).pivot).applyMatrix4(level.worldMatrix(id)))
  return ids.flatMap((id, i) => moveTops(level, [id], pivots[(i + 1) % ids.length]!.clone().sub(pivots[i]!)))
}
