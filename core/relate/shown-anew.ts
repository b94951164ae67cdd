import type { Operation } from '../level/schema'
import type { LevelView } from '../scene/level-view'
import { relationsIn } from './graph'
import { thingOf } from './standing'

/**
 * Things that hold others or follow some, and show something else after operations: another part, block or rule, an
 * edited block. What is kept is to be worked out again once they do.
 */
export function keptShownAnew(level: LevelView, operations: readonly Operation[]): string[] {
  const { byHeld, heldBy } = relationsIn(level)
  if (heldBy.size + byHeld.size === 0) return []
  const blocks = new Set(operations.flatMap(({ do: what, id }) => (what === 'put-block' ? [id] : [])))
  const anew = operations.flatMap(operation => {
    if (operation.do !== 'put') return []
    const { own, partId, blockId } = operation.fields
    const thing = thingOf(operation.id)
    const isOther = partId !== undefined || blockId !== undefined || (own && level.arrangementIds.has(thing))
    return isOther ? [thing] : []
  })
  const shown = new Set(anew)
  return [...new Set([...heldBy.keys(), ...byHeld.keys()])].filter(
    id => shown.has(id) || blocks.has(level.get(id)?.blockId ?? ''),
  )
}
