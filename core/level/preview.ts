import { Matrix4 } from 'three'
import { isArrangement } from '../arrange/arrangement'
import { withExceptions } from '../arrange/copy'
import type { Arranged } from '../arrange/expand'
import { arrangedOf } from '../arrange/expand'
import type { LevelDocument } from './document'
import type { Operation, Placement } from './schema'
import { localMatrix } from './transform'

/**
 * Where everything would stand that operations on transforms move, without writing them: the world matrix of each placement
 * they touch and of all below. The work grows with those, not with the level.
 *
 * @returns by id; for new placements as well
 */
export function previewMatrices(document: LevelDocument, operations: readonly Operation[]): Map<string, Matrix4> {
  const records = new Map<string, Placement>()
  for (const operation of operations) {
    if (operation.do === 'put') records.set(operation.id, { ...(records.get(operation.id) ?? document.get(operation.id))!, id: operation.id, ...operation.fields })
  }
  const matrices = new Map<string, Matrix4>()
  const recordOf = (id: string) => records.get(id) ?? document.need(id)
  const matrixOf = (id: string): Matrix4 => {
    const known = matrices.get(id)
    if (known) return known
    if (!movesWith(id)) return document.worldMatrix(id)
    const record = recordOf(id)
    const matrix = localMatrix(record, new Matrix4())
    if (record.parentId !== null) matrix.premultiply(matrixOf(record.parentId))
    matrices.set(id, matrix)
    return matrix
  }
  const moving = new Map<string, boolean>()
  const movesWith = (id: string): boolean => {
    let answer = moving.get(id)
    if (answer === undefined) {
      const parentId = records.has(id) ? null : document.need(id).parentId
      answer = records.has(id) || (parentId !== null && movesWith(parentId))
      moving.set(id, answer)
    }
    return answer
  }
  for (const id of records.keys()) {
    matrixOf(id)
    if (document.hasChildren(id)) for (const below of document.subtree(id)) matrixOf(below)
  }
  return matrices
}

/** The arrangements that operations would change or make, by id: what one copy has of its own, a rule, sources that come to one. */
export function previewArranged(document: LevelDocument, operations: readonly Operation[]): Map<string, Arranged> {
  const found = new Map<string, Arranged>()
  const comers = new Map<string, string[]>()
  for (const operation of withExceptions(document, operations)) {
    if (operation.do !== 'put') continue
    const { own, parentId } = operation.fields
    if (parentId) comers.set(parentId, [...comers.get(parentId) ?? [], operation.id])
    if (own && isArrangement(own)) found.set(operation.id, { own, sources: document.arrangementIds.has(operation.id) ? arrangedOf(document, operation.id).sources : [] })
  }
  for (const [id, arranged] of found) found.set(id, { ...arranged, sources: [...arranged.sources, ...comers.get(id) ?? []] })
  return found
}
