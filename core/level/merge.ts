import type { Operation } from './schema'

/**
 * The same as many operations one after the other, with one for each record: the last of each field, or its removal.
 *
 * One that is put and then removed comes out as a removal, although it may never have been there: leave out those of
 * records that the level does not have.
 */
export function mergeOperations(operations: Iterable<Operation>): Operation[] {
  const merged = new Map<string, Operation>()
  for (const operation of operations) {
    const key = `${operation.do.replace(/^(put|remove)/, '')}/${operation.id}`
    const before = merged.get(key)
    // What is put again after it was removed is put with all its fields.
    const isBoth = before && 'fields' in before && 'fields' in operation
    merged.set(
      key,
      isBoth ? ({ ...before, fields: { ...before.fields, ...operation.fields } } as Operation) : operation,
    )
  }
  return [...merged.values()]
}
