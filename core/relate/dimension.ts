import type { Relation } from '../level/schema'
import type { LevelView } from '../scene/level-view'
import type { KeptDimension } from './definition'
import { definitionOf } from './kinds'
import { Standing } from './standing'

/** The distance that a relation keeps, as it is drawn on a plan; null for one that keeps none, or cannot be. */
export function dimensionOf(level: LevelView, relation: Relation): KeptDimension | null {
  const { rule, held, holders } = relation
  const isThere = level.has(held) && holders.every(({ on }) => on === null || level.has(on))
  const standing = new Standing(level, [])
  return (isThere && definitionOf(rule).dimension?.({ standing, relation, rule })) || null
}
