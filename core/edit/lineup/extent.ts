import type { Quaternion } from 'three'
import { directionsOf } from '../handles/axes'
import { pivotOf } from '../handles/pivot'
import type { LevelIndex } from '../../scene/level-index'
import type { Level } from '../../level/level'
import { toMicrometre } from '../../math/micrometre'

/**
 * Where a thing, with all below it, begins and ends along one axis, and where its pivot is; in metres from the world's
 * origin.
 */
export type Extent = { id: string; min: number; max: number; pivot: number }

/** The place on a thing's extent that is lined up. */
export const ALIGN_PLACES = ['min', 'centre', 'max', 'pivot'] as const
export type AlignPlace = (typeof ALIGN_PLACES)[number]

/**
 * Measures by the real points of the mesh, not by the corners of its box. A thing without a shape is as large as its
 * pivot.
 */
export function extentOf(level: Level, index: LevelIndex, id: string, axes: Quaternion, axis: 0 | 1 | 2): Extent {
  const direction = directionsOf(axes)[axis]
  const below = level.subtree(id)
  const pivot = toMicrometre(pivotOf(level, id).dot(direction))
  const max = index.extents.extreme(below, direction)
  const min = index.extents.extreme(below, direction.clone().negate())
  return { id, pivot, min: min ? toMicrometre(-min.reach) : pivot, max: max ? toMicrometre(max.reach) : pivot }
}

export function coordinateOf({ min, max, pivot }: Omit<Extent, 'id'>, place: AlignPlace): number {
  return place === 'pivot' ? pivot : place === 'centre' ? (min + max) / 2 : place === 'min' ? min : max
}
