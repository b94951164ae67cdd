import type { Level } from '../level/level'
import type { Operation, Relation } from '../level/schema'

/** Relations as operations on them leave them; what is not whole yet is left to who reads it by its schema. */
export function relationsAfter(level: Level, operations: readonly Operation[]): Relation[] {
  const after = new Map(level.relations)
  for (const operation of operations)
    if (operation.do === 'remove-relation') after.delete(operation.id)
    else if (operation.do === 'put-relation')
      after.set(operation.id, { ...after.get(operation.id), ...operation.fields, id: operation.id } as Relation)
  return [...after.values()].filter(({ held, rule, holders }) => Boolean(held && rule && holders))
}
