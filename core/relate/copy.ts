import type { Level } from '../level/level'
import type { Operation } from '../level/schema'
import { copyId, copyOf } from '../scene/copy-id'
import { relationsIn } from './graph'

/**
 * The operations that keep copies to each other as what they were made of is kept to each other. What is kept to
 * something that was not copied is not: two would follow it.
 *
 * @param made the copy of each thing
 */
export function copiedRelations(level: Level, made: ReadonlyMap<string, string>, newId: () => string): Operation[] {
  const { byHeld } = relationsIn(level)
  if (byHeld.size === 0) return []
  const copyFor = (id: string | null): string | null => {
    if (id === null) return null
    const copy = copyOf(id)
    const to = made.get(copy?.arrangementId ?? id)
    return to === undefined ? null : copy ? copyId(to, copy.key) : to
  }
  return [...made].flatMap(([from, held]) =>
    (byHeld.get(from) ?? []).flatMap(({ id: _id, holders, ...fields }): Operation[] => {
      const by = holders.map(holder => ({ ...holder, on: copyFor(holder.on) }))
      if (by.some(({ on }) => on === null)) return []
      return [{ do: 'put-relation', id: newId(), fields: { ...fields, held, holders: by } }]
    }),
  )
}
