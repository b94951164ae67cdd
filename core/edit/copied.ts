import type { Operation, Relation } from '../level/schema'
import { copyId, copyOf } from '../scene/copy-id'

/** The copy of a thing, or of a copy of an arrangement; undefined if it was not made. */
function copyFor(made: ReadonlyMap<string, string>, id: string): string | undefined {
  const named = copyOf(id)
  const to = made.get(named?.arrangementId ?? id)
  return to !== undefined && named ? copyId(to, named.key) : to
}

/**
 * What is kept of things that were copied, of their copies: to each other where what holds a thing was copied with it,
 * else to the same as before.
 *
 * @param made the copy of each thing
 */
export function copiedRelations(
  relations: Iterable<Relation>,
  made: ReadonlyMap<string, string>,
): { within: Omit<Relation, 'id'>[]; outside: Omit<Relation, 'id'>[] } {
  const found: ReturnType<typeof copiedRelations> = { within: [], outside: [] }
  for (const { id: _id, ...fields } of relations) {
    const held = made.get(fields.held)
    if (held === undefined) continue
    const by = fields.holders.map(({ on }) => (on === null ? undefined : copyFor(made, on)))
    const holders = fields.holders.map((holder, i) => ({ ...holder, on: by[i] ?? holder.on }))
    found[by.includes(undefined) ? 'outside' : 'within'].push({ ...fields, held, holders })
  }
  return found
}

/** What writes relations. */
export const puttingRelations = (relations: readonly Omit<Relation, 'id'>[], newId: () => string): Operation[] =>
  relations.map(fields => ({ do: 'put-relation', id: newId(), fields }))
