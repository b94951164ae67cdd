import { Matrix4 } from 'three'
import type { LevelDocument } from '../level/document'
import { duplicate } from '../level/duplicate'
import type { Operation, Placement } from '../level/schema'
import { localMatrix } from '../level/transform'
import { decompose } from '../level/tree'
import { lastOrder } from '../level/create'
import { copyOf, withExceptions } from './copy'
import { arrangedOf } from './expand'
import { placeCopies } from './placed'
import { groundBelow } from './settle'

/**
 * The operations that turn an arrangement's copies into ordinary placements in a group in its place. They stand exactly where the
 * copies stood; instances go on sharing their parts and blocks. What a mirror mirrors stays as it is, beside its mirror images.
 *
 * @param newId makes an id for each
 */
export function release(document: LevelDocument, id: string, newId: () => string): Operation[] {
  const { own, sources } = arrangedOf(document, id)
  const operations: Operation[] = [{ do: 'put', id, fields: { kind: 'group', own: {} } }]
  if (sources.length === 0) return operations
  const isMirror = own.rule.rule === 'mirror'
  const copies = placeCopies(own, sources.length, groundBelow(document, document.worldMatrix(id)))
  const put = (source: Placement, index: number, order: number) => {
    const numbers = copies.numbersOf(index, source)
    const place = new Matrix4().fromArray(copies.ruled, index * 16).multiply(localMatrix(numbers, new Matrix4()))
    const { operations: made, tops } = duplicate(document, [source.id], 'instance', newId)
    operations.push(...made.map((operation): Operation => operation.do !== 'put' || operation.id !== tops[0] ? operation : {
      ...operation, fields: { ...operation.fields, ...decompose(place, source.pivot), order, name: `${source.name} ${order + 1}`.slice(0, 200) },
    }))
  }
  if (isMirror) {
    sources.forEach((source, i) => put(document.need(source), 0, sources.length + i))
    return operations
  }
  for (let i = 0; i < copies.places.count; i++) {
    const source = copies.sourceOf(i)
    if (source >= 0) put(document.need(sources[source]!), i, i)
  }
  const gone = sources.flatMap(source => document.subtree(source))
  return [...operations, ...gone.toReversed().map((each): Operation => ({ do: 'remove', id: each }))]
}

/**
 * The operations that turn one copy into an ordinary placement beside its arrangement, which leaves it out from then on.
 *
 * @param id the copy's
 * @returns the operations, and the id of what it has become
 */
export function releaseCopy(document: LevelDocument, id: string, newId: () => string): { operations: Operation[], made: string } {
  const { arrangementId } = copyOf(id)!
  const { parentId } = document.need(arrangementId)
  const copy = document.need(id)
  const sourceId = sourceOfCopy(document, id)
  const { operations, tops: [made] } = duplicate(document, [sourceId], 'instance', newId)
  const matrix = document.worldMatrix(id).clone()
  if (parentId !== null) matrix.premultiply(document.worldMatrix(parentId).clone().invert())
  const place = { ...decompose(matrix, copy.pivot), parentId, order: lastOrder(document, parentId), name: copy.name }
  return {
    made: made!,
    operations: [
      ...operations.map((operation): Operation => operation.do === 'put' && operation.id === made ? { ...operation, fields: { ...operation.fields, ...place } } : operation),
      ...withExceptions(document, [{ do: 'remove', id }]),
    ],
  }
}

/** The source that a copy shows. @throws RangeError if there is no such copy */
export function sourceOfCopy(document: LevelDocument, id: string): string {
  const { arrangementId, key } = copyOf(id)!
  const { own, sources } = arrangedOf(document, arrangementId)
  const copies = placeCopies(own, sources.length, null)
  const index = copies.places.indexOf(key)
  if (index === null) throw new RangeError(`there is no copy ${id}`)
  return sources[copies.sourceOf(index)]!
}
