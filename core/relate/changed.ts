import type { Level } from '../level/level'
import type { Operation, Relation } from '../level/schema'
import { aimRelation, isAim, relationOf, relationWritten } from './aims'
import { relationsAfter } from './after'

/** A relation that was there, and what becomes of it: null if it is let go of. */
export type ChangedRelation = { before: Relation; after: Relation | null }

/** What operations make of relations that were there, each once. */
export function changedRelations(level: Level, operations: readonly Operation[]): ChangedRelation[] {
  const written = new Map(
    operations.flatMap(operation => relationWritten(operation).map(id => [id, operation] as const)),
  )
  if (written.size === 0) return []
  const recorded = new Map(relationsAfter(level, operations).map(relation => [relation.id, relation]))
  return [...written].flatMap(([id, operation]) => {
    const before = relationOf(level, id)
    if (!before) return []
    const own = operation.do === 'put' ? operation.fields.own : undefined
    const after = own && isAim(before) ? aimRelation({ id: operation.id, own }) : (recorded.get(id) ?? null)
    return after && isSame(before, after) ? [] : [{ before, after }]
  })
}

const isSame = (a: Relation, b: Relation) =>
  JSON.stringify([a.rule, a.holders, a.point]) === JSON.stringify([b.rule, b.holders, b.point])
