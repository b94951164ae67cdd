import type { Level } from '../level/level'
import type { Operation, Relation } from '../level/schema'
import { aimRelation, relationOf, relationWritten } from './aims'

/** A relation that was there, and what becomes of it: null if it is let go of. */
export type ChangedRelation = { before: Relation; after: Relation | null }

/** What operations make of relations that were there, each once. */
export function changedRelations(level: Level, operations: readonly Operation[]): ChangedRelation[] {
  const after = new Map<string, Relation | null>()
  for (const operation of operations)
    for (const id of relationWritten(operation)) {
      const before = after.get(id) ?? relationOf(level, id)
      if (before) after.set(id, writtenBy(operation, before))
    }
  return [...after].flatMap(([id, last]) => {
    const before = relationOf(level, id)
    return !before || (last && isSame(before, last)) ? [] : [{ before, after: last }]
  })
}

function writtenBy(operation: Operation, before: Relation): Relation | null {
  if (operation.do === 'put-relation') return { ...before, ...operation.fields }
  return operation.do === 'put' && operation.fields.own
    ? aimRelation({ id: operation.id, own: operation.fields.own })
    : null
}

const isSame = (a: Relation, b: Relation) =>
  JSON.stringify([a.rule, a.holders, a.point]) === JSON.stringify([b.rule, b.holders, b.point])
