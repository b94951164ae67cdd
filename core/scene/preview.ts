import { Matrix4 } from 'three'
import { isArrangement } from '../arrange/arrangement'
import { withExceptions } from './copies'
import type { Arranged } from './expand'
import type { LevelView } from './level-view'
import type { Operation, Placement } from '../level/schema'
import { localMatrix } from '../math/transform'

/**
 * Where everything would stand that operations on transforms move, without writing them: the world matrix of each
 * placement they touch and of all below. The work grows with those, not with the level.
 *
 * @returns by id; for new placements as well
 */
export function previewMatrices(level: LevelView, operations: readonly Operation[]): Map<string, Matrix4> {
  const records = new Map<string, Placement>()
  for (const operation of operations) {
    if (operation.do === 'put')
      records.set(operation.id, {
        ...(records.get(operation.id) ?? level.get(operation.id))!,
        id: operation.id,
        ...operation.fields,
      })
  }
  const matrices = new Map<string, Matrix4>()
  const recordOf = (id: string) => records.get(id) ?? level.need(id)
  // Of what stays where it is, how it stands now; of what moves, worked out from the top downwards.
  const stays = new Set<string>()
  const place = (id: string) => {
    const way: string[] = []
    let moved = 0
    for (let at: string | null = id; at !== null && !matrices.has(at) && !stays.has(at); at = recordOf(at).parentId) {
      way.push(at)
      if (records.has(at)) moved = way.length
    }
    const above = way.length > 0 ? recordOf(way.at(-1)!).parentId : null
    // Below something that moves all of it does; else only from the topmost that is touched.
    const moving = above !== null && matrices.has(above) ? way.length : moved
    for (const at of way.splice(moving)) stays.add(at)
    for (const at of way.reverse()) {
      const record = recordOf(at)
      const matrix = localMatrix(record, new Matrix4())
      if (record.parentId !== null)
        matrix.premultiply(matrices.get(record.parentId) ?? level.worldMatrix(record.parentId))
      matrices.set(at, matrix)
    }
  }
  for (const id of records.keys()) {
    place(id)
    if (level.hasChildren(id)) for (const below of level.subtree(id)) place(below)
  }
  return matrices
}

/**
 * The arrangements that operations would change or make, by id: what one copy has of its own, a rule, sources that come
 * to one.
 */
export function previewArranged(level: LevelView, operations: readonly Operation[]): Map<string, Arranged> {
  const found = new Map<string, Arranged>()
  const comers = new Map<string, string[]>()
  for (const operation of withExceptions(level, operations)) {
    if (operation.do !== 'put') continue
    const { own, parentId } = operation.fields
    if (parentId) comers.set(parentId, [...(comers.get(parentId) ?? []), operation.id])
    if (own && isArrangement(own))
      found.set(operation.id, {
        own,
        sources: level.arrangementIds.has(operation.id) ? level.children(operation.id) : [],
      })
  }
  for (const [id, arranged] of found)
    found.set(id, { ...arranged, sources: [...arranged.sources, ...(comers.get(id) ?? [])] })
  return found
}
