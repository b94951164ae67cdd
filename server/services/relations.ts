import type { Level } from '../../core/level/level'
import type { Change } from '../../core/level/schema'
import { inOrder, indexOf, holdersOf } from '../../core/relate/graph'
import { ApiError } from '../utils/api-error'

/**
 * Sees to it that no things follow each other in a circle, nor what is not there.
 *
 * @param level with all its relations, and all that they name with what that hangs from, after the changes
 * @throws ApiError 422
 */
export function refuseBadRelations(level: Level, fresh: readonly Change[]): void {
  const written = new Set(
    fresh.flatMap(({ operations }) => operations.flatMap(({ do: what, id }) => (what === 'put-relation' ? [id] : []))),
  )
  for (const relation of level.relations.values())
    if (written.has(relation.id) && ![relation.held, ...holdersOf(relation)].every(id => level.has(id)))
      throw new ApiError(422, 'missing', 'changes: a thing can only follow what is there.', { field: 'changes' })
  const { byHeld } = indexOf(level.relations.values())
  const { circle } = inOrder(byHeld.keys(), { byHeld, parentOf: id => level.get(id)?.parentId ?? null })
  if (circle.length === 0) return
  const names = circle.slice(0, 5).flatMap(id => level.get(id)?.name ?? [])
  throw new ApiError(422, 'cycle', `changes: these would follow each other in a circle: ${names.join(', ')}.`, {
    field: 'changes',
  })
}
