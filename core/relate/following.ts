import { withAims } from '../edit/aim'
import type { Operation } from '../level/schema'
import type { Finder } from '../scene/finder'
import type { LevelView } from '../scene/level-view'
import { relationsIn } from './graph'
import type { Kept } from './keep'
import { withRelations } from './keep'
import { thingOf } from './standing'

/** Operations with all that follows from them: what is kept to something, and then what aims at something. */
export function withFollowing(level: LevelView, finder: Finder, operations: readonly Operation[]): Kept {
  const kept = withRelations(level, finder, operations)
  return { ...kept, operations: withAims(level, kept.operations) }
}

/** Things that hold others and show something else after operations: another part, block or rule, an edited block. */
export function holdersShownAnew(level: LevelView, operations: readonly Operation[]): string[] {
  const { heldBy } = relationsIn(level)
  if (heldBy.size === 0) return []
  const blocks = new Set(operations.flatMap(({ do: what, id }) => (what === 'put-block' ? [id] : [])))
  const anew = operations.flatMap(operation => {
    if (operation.do !== 'put') return []
    const { own, partId, blockId } = operation.fields
    return own !== undefined || partId !== undefined || blockId !== undefined ? [thingOf(operation.id)] : []
  })
  const shown = new Set(anew)
  return [...heldBy.keys()].filter(id => shown.has(id) || blocks.has(level.get(id)?.blockId ?? ''))
}

/** What follows where things stand as before but show something else by now. */
export function followingShown(level: LevelView, finder: Finder, ids: readonly string[]): Kept {
  const there = ids.filter(id => level.has(id))
  const asBefore = there.map((id): Operation => ({ do: 'put', id, fields: { scale: level.need(id).scale } }))
  const { operations, unmet } = withFollowing(level, finder, asBefore)
  return { operations: operations.slice(asBefore.length), unmet }
}
