import type { Quaternion } from 'three'
import { directionsOf } from '../handles/axes'
import { movePlacements } from '../handles/move'
import type { LevelIndex } from '../../scene/level-index'
import type { Level } from '../../level/level'
import type { Operation } from '../../level/schema'
import { topmost } from '../../level/tree'
import type { AlignPlace } from './extent'
import { extentOf, coordinateOf } from './extent'

export type DistributeRule =
  /** The free space between neighbours is the same everywhere; the first and the last stay. */
  | { by: 'gaps' }
  /** One place of each thing is as far from that of the next; the first and the last stay. */
  | { by: 'places'; place: AlignPlace }
  /** Neighbours are this far apart, in metres; negative for an overlap. The first stays. */
  | { by: 'gap'; gap: number }

/**
 * The operations that spread things along one axis, in the order they stand in along it.
 * @returns none for fewer than three things, or fewer than two with a given gap
 */
export function distribute(
  level: Level,
  index: LevelIndex,
  ids: readonly string[],
  { axes, axis, rule }: { axes: Quaternion; axis: 0 | 1 | 2; rule: DistributeRule },
): Operation[] {
  const tops = topmost(level, new Set(ids))
  if (tops.length < (rule.by === 'gap' ? 2 : 3)) return []
  const order: AlignPlace = rule.by === 'places' ? rule.place : 'centre'
  const extents = tops
    .map(id => extentOf(level, index, id, axes, axis))
    .sort((a, b) => coordinateOf(a, order) - coordinateOf(b, order))
  const [first, last] = [extents[0]!, extents.at(-1)!]
  const direction = directionsOf(axes)[axis]
  const ways: number[] = []
  if (rule.by === 'places') {
    const [from, to] = [coordinateOf(first, order), coordinateOf(last, order)]
    extents.forEach((extent, i) =>
      ways.push(from + ((to - from) * i) / (extents.length - 1) - coordinateOf(extent, order)),
    )
  } else {
    const filled = extents.reduce((sum, { min, max }) => sum + max - min, 0)
    const gap = rule.by === 'gap' ? rule.gap : (last.max - first.min - filled) / (extents.length - 1)
    let at = first.min
    for (const { min, max } of extents) {
      ways.push(at - min)
      at += max - min + gap
    }
  }
  return extents.flatMap(({ id }, i) =>
    Math.abs(ways[i]!) < 1e-10 ? [] : movePlacements(level, [id], direction.clone().multiplyScalar(ways[i]!)),
  )
}
