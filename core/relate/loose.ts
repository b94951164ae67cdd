import type { Operation, Relation } from '../level/schema'
import type { Finder } from '../scene/finder'
import type { LevelView } from '../scene/level-view'
import { removeRelation } from './aims'
import { holdersOf, relationsIn } from './graph'
import { holds } from './miss'
import { Standing } from './standing'

/** What is kept of things, and of all that hangs from them, to anything besides. */
export function keptToOthers(level: LevelView, ids: readonly string[]): Relation[] {
  const { byHeld } = relationsIn(level)
  if (byHeld.size === 0) return []
  const own = new Set(ids.flatMap(id => (level.has(id) ? level.subtree(id) : [])))
  return [...own].flatMap(id =>
    (byHeld.get(id) ?? []).filter(relation => holdersOf(relation).some(holder => !own.has(holder))),
  )
}

/** What lets go of relations. */
export const lettingGo = (level: LevelView, relations: readonly Relation[]): Operation[] =>
  relations.map(relation => removeRelation(relation, level.need(relation.held).own))

/** Those of relations that would not hold after operations that were done as if there were none. */
export function heldNoMore(
  level: LevelView,
  finder: Finder,
  relations: readonly Relation[],
  operations: readonly Operation[],
): Relation[] {
  const standing = new Standing(level, operations)
  return relations.filter(relation => !holds(standing, finder, relation))
}
