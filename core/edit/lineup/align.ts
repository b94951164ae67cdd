import type { Quaternion } from 'three'
import { directionsOf } from '../handles/axes'
import { movePlacements } from '../handles/move'
import type { LevelIndex } from '../../scene/level-index'
import type { Level } from '../../level/level'
import type { Operation } from '../../level/schema'
import { topmost } from '../../level/tree'
import { SET_DOWN_LIMITS } from '../snap/set-down'
import { surfaceBelow } from '../snap/rest'
import type { AlignPlace } from './extent'
import { extentOf, coordinateOf } from './extent'
import { Vector3 } from 'three'

/** What things are aligned to. */
export const ALIGN_TARGETS = ['last', 'first', 'all', 'ground', 'value'] as const
export type AlignTarget = (typeof ALIGN_TARGETS)[number]

export type AlignRule = {
  /** The place of each thing that is brought to the line. */
  place: AlignPlace
  target: AlignTarget
  /** The place of the target that makes the line; the same as `place` when left out. */
  targetPlace?: AlignPlace
  /** For `value`: the coordinate along the axis, in metres. */
  value?: number
}

/**
 * The operations that bring one place of each thing onto one line across an axis.
 *
 * @param ids in the order picked; `first` and `last` mean theirs, and that thing stays where it is
 * @param rules one for each axis of `axes`; null leaves that axis alone. `ground` means the ground below each thing and
 *   is for the vertical alone; without ground below a thing stays
 */
export function align(
  level: Level,
  index: LevelIndex,
  ids: readonly string[],
  axes: Quaternion,
  rules: readonly (AlignRule | null)[],
): Operation[] {
  const tops = topmost(level, new Set(ids))
  const picked = new Set(tops.flatMap(id => level.subtree(id)))
  const ways = new Map(tops.map(id => [id, new Vector3()]))
  rules.forEach((rule, number) => {
    if (!rule || tops.length === 0) return
    const axis = number as 0 | 1 | 2
    const direction = directionsOf(axes)[axis]
    const extents = tops.map(id => extentOf(level, index, id, axes, axis))
    const line = lineOf(rule, extents)
    for (const extent of extents) {
      const at = line ?? groundHeightUnder(level, index, extent.id, picked)
      if (at !== null) ways.get(extent.id)!.addScaledVector(direction, at - coordinateOf(extent, rule.place))
    }
  })
  return [...ways].flatMap(([id, way]) => (way.lengthSq() < 1e-20 ? [] : movePlacements(level, [id], way)))
}

/** Where the line is; null if each thing has its own. */
function lineOf(
  { place, target, targetPlace = place, value }: AlignRule,
  extents: ReturnType<typeof extentOf>[],
): number | null {
  switch (target) {
    case 'last':
      return coordinateOf(extents.at(-1)!, targetPlace)
    case 'first':
      return coordinateOf(extents[0]!, targetPlace)
    case 'value':
      return value ?? 0
    case 'ground':
      return null
    case 'all': {
      const pivot = extents.reduce((sum, extent) => sum + extent.pivot, 0) / extents.length
      return coordinateOf(
        {
          min: extents.reduce((least, { min }) => Math.min(least, min), Infinity),
          max: extents.reduce((most, { max }) => Math.max(most, max), -Infinity),
          pivot,
        },
        targetPlace,
      )
    }
  }
}

function groundHeightUnder(level: Level, index: LevelIndex, id: string, picked: ReadonlySet<string>): number | null {
  const foot = index.extents.extreme(level.subtree(id), new Vector3(0, -1, 0))?.middle
  if (!foot) return null
  return (
    surfaceBelow(
      index,
      foot.setY(foot.y + SET_DOWN_LIMITS.above),
      SET_DOWN_LIMITS.above + SET_DOWN_LIMITS.below,
      other => !picked.has(other),
    )?.point.y ?? null
  )
}
