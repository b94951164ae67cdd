import type { Level } from '../level/level'
import { isOfNotes, recordIn } from '../level/change'
import type { Operation } from '../level/schema'
import { copyOf } from './copy-id'

/** A level, as far as it is asked what belongs to what. */
type Asked = Pick<Level, 'get' | 'layers'>

/** A thing or layer that somebody has asked the others to leave alone. */
export type Reserved = { id: string; name: string; by: string }

/** A thing, or the arrangement it is a copy of, and all that it hangs from. */
function* upFrom(level: Asked, id: string | null): Generator<string> {
  for (let at = id && (copyOf(id)?.arrangementId ?? id); at !== null; at = level.get(at)?.parentId ?? null) yield at
}

/**
 * By whom a thing is reserved: itself, a group it is in, or its layer.
 *
 * @param reserved who has reserved what, by the ids of things and layers
 * @returns what was reserved; null if nobody did
 */
export function reservedAs(level: Asked, reserved: ReadonlyMap<string, string>, id: string | null): Reserved | null {
  for (const at of upFrom(level, id)) {
    const found = named(level, reserved, at) ?? named(level, reserved, level.get(at)?.layerId ?? null)
    if (found) return found
  }
  return null
}

function named(level: Asked, reserved: ReadonlyMap<string, string>, id: string | null): Reserved | null {
  const by = id === null ? undefined : reserved.get(id)
  if (id === null || by === undefined) return null
  return { id, by, name: level.get(id)?.name ?? level.layers.get(id)?.name ?? 'something' }
}

/**
 * What of reserved things and layers operations would change: those that are reserved, hang from what is, or take along
 * what is; also what is put into them. Notes may be written on anything.
 *
 * @param level as it is before the operations
 * @returns each once
 */
export function reservedAmong(
  level: Asked,
  reserved: ReadonlyMap<string, string>,
  operations: readonly Operation[],
): Reserved[] {
  if (reserved.size === 0) return []
  const found = new Map<string, Reserved>()
  const add = (each: Reserved | null) => each && found.set(each.id, each)
  /** Of all that reserved things hang from, one of them. */
  const above = new Map([...reserved.keys()].flatMap(id => [...upFrom(level, id)].map(at => [at, id] as const)))
  for (const operation of operations) {
    if (isOfNotes(operation)) continue
    if (recordIn(operation) !== null) {
      add(named(level, reserved, operation.id))
      continue
    }
    add(reservedAs(level, reserved, operation.id))
    add(named(level, reserved, above.get(operation.id) ?? null))
    if (operation.do !== 'put') continue
    add(reservedAs(level, reserved, operation.fields.parentId ?? null))
    add(named(level, reserved, operation.fields.layerId ?? null))
  }
  return [...found.values()]
}
