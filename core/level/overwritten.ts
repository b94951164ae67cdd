import isEqual from 'fast-deep-equal'
import { recordIn } from './change'
import type { LevelRecords } from './level'
import { TABLE_OF } from './level'
import { mergeOperations } from './merge'
import type { Operation, Placement, RecordName } from './schema'

/** A level, as far as it is asked what is in it. */
type Asked = { get: (id: string) => Placement | undefined } & {
  readonly [T in keyof LevelRecords]: ReadonlyMap<string, object>
}

/** A field that is not as it was left by who wants to take it back. */
export type Overwritten = {
  /** What kind of record it is of; null for a placement. */
  record: RecordName | null
  id: string
  /** What that is called; empty for what has no name. */
  name: string
  field: string
  is: unknown
  /** What taking it back would make of it; undefined if that would remove the record. */
  back: unknown
}

const keyOf = (operation: Operation) => `${recordIn(operation) ?? ''}/${operation.id}`

/**
 * What of a step somebody else has changed since it was done.
 *
 * @param left how the step left things: its operations
 * @param back what takes it back
 * @returns the fields that would be put back, or removed, and are not as they were left; those of records that are gone
 *   are not among them
 */
export function overwritten(level: Asked, left: readonly Operation[], back: readonly Operation[]): Overwritten[] {
  const asLeft = new Map(mergeOperations(left).map(operation => [keyOf(operation), operation]))
  return mergeOperations(back).flatMap(operation => {
    const before = asLeft.get(keyOf(operation))
    const record = recordIn(operation)
    const now = record === null ? level.get(operation.id) : level[TABLE_OF[record]].get(operation.id)
    if (!now || !before || !('fields' in before)) return []
    const fields: Record<string, unknown> = before.fields
    const backTo: Record<string, unknown> | null = 'fields' in operation ? operation.fields : null
    const is = now as Record<string, unknown>
    return Object.keys(fields)
      .filter(field => (!backTo || field in backTo) && !isEqual(is[field], fields[field]))
      .map(field => ({
        record,
        id: operation.id,
        name: typeof is.name === 'string' ? is.name : '',
        field,
        is: is[field],
        back: backTo?.[field],
      }))
  })
}

/** Operations with nothing but what they would do to some fields. */
export function onlyFields(operations: readonly Operation[], fields: readonly Overwritten[]): Operation[] {
  return mergeOperations(operations).flatMap(operation => {
    if (!('fields' in operation)) return []
    const wanted = fields.filter(({ record, id }) => id === operation.id && record === recordIn(operation))
    const found = Object.entries(operation.fields).filter(([field]) => wanted.some(each => each.field === field))
    return found.length === 0 ? [] : [{ ...operation, fields: Object.fromEntries(found) } as Operation]
  })
}

/** Operations without what they would do to some fields; what would be removed with them stays whole. */
export function withoutFields(operations: readonly Operation[], fields: readonly Overwritten[]): Operation[] {
  return operations.flatMap(operation => {
    const kept = fields.filter(({ record, id }) => id === operation.id && record === recordIn(operation))
    if (kept.length === 0) return [operation]
    if (!('fields' in operation)) return []
    const left = Object.entries(operation.fields).filter(([field]) => !kept.some(each => each.field === field))
    return left.length === 0 ? [] : [{ ...operation, fields: Object.fromEntries(left) } as Operation]
  })
}
