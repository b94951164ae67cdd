import type { PointOn } from '../level/fields'
import type { Operation } from '../level/schema'
import { copyOf } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'
import { placeOfEnd } from './definition'

/** Operations that remove things, with the ends of measures and the notes on them kept where they are now. */
export function withEndsKept(level: LevelView, operations: readonly Operation[]): Operation[] {
  if (level.measures.size + level.threads.size === 0) return [...operations]
  const removed = new Set(operations.flatMap(operation => (operation.do === 'remove' ? [operation.id] : [])))
  if (removed.size === 0) return [...operations]
  const written = new Set(
    operations.flatMap(({ do: what, id }) => (what.endsWith('-measure') || what.endsWith('-thread') ? [id] : [])),
  )
  const where = { level, matrixOf: (id: string) => level.worldMatrix(id) }
  const isRemoved = (id: string | null) => id !== null && removed.has(copyOf(id)?.arrangementId ?? id)
  const keptAt = (end: PointOn) => (isRemoved(end.on) ? { ...end, at: placeOfEnd(end, where).at.toArray() } : end)
  const threads = [...level.threads.values()].flatMap(({ id, at }): Operation[] =>
    written.has(id) || !isRemoved(at.on) ? [] : [{ do: 'put-thread', id, fields: { at: keptAt(at) } }],
  )
  const kept = [...level.measures.values()].flatMap(({ id, ends }): Operation[] => {
    if (written.has(id) || !ends.some(({ on }) => isRemoved(on))) return []
    return [
      {
        do: 'put-measure',
        id,
        fields: {
          ends: ends.map(keptAt),
        },
      },
    ]
  })
  return [...operations, ...kept, ...threads]
}
