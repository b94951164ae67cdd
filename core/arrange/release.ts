import { Matrix4 } from 'three'
import type { LevelDocument } from '../level/document'
import { duplicate } from '../level/duplicate'
import type { Operation, Placement, PlacementFields } from '../level/schema'
import { localMatrix } from '../level/transform'
import { decompose } from '../level/tree'
import { createPlacement, lastOrder } from '../level/create'
import { isBentKey } from './bent-key'
import { copyOf, withExceptions } from './copy'
import { CopyPlaces } from './count'
import type { ShapeCopies } from './expand'
import { arrangedOf, expand } from './expand'
import { isBent } from './path-bend'
import { placeCopies } from './placed'
import { groundBelow } from './settle'

/** The part that has the mesh of a bent shape. */
export type PartOf = (bentShape: string) => string

const noPart: PartOf = (shape) => {
  throw new RangeError(`there is no part for ${shape}`)
}

/** The bent shapes that copies show, each of which has to become a part before they can be released. @param id of an arrangement or a copy */
export function bentShapesOf(document: LevelDocument, id: string): string[] {
  return bentOf(document, id).map(({ shape }) => shape)
}

function bentOf(document: LevelDocument, id: string): ShapeCopies[] {
  const named = copyOf(id)
  const arrangementId = named?.arrangementId ?? id
  const { rule } = arrangedOf(document, arrangementId).own
  if (!isBent(rule)) return []
  const index = named && new CopyPlaces(rule).indexOf(named.key)
  return expand(document, arrangementId).filter(({ shape, indices }) => isBentKey(shape) && (index === null || indices[0] === index))
}

/**
 * The operations that turn an arrangement's copies into ordinary placements in a group in its place. They stand exactly where the
 * copies stood; instances go on sharing their parts and blocks. What a mirror mirrors stays as it is, beside its mirror images.
 *
 * @param newId makes an id for each
 * @param partOf needed for bent pieces alone
 */
export function release(document: LevelDocument, id: string, newId: () => string, partOf: PartOf = noPart): Operation[] {
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
  const bent = bentOf(document, id)
  const bentCopies = new Set(bent.map(({ indices }) => indices[0]!))
  for (let i = 0; i < copies.places.count; i++) {
    const source = copies.sourceOf(i)
    if (source >= 0 && !bentCopies.has(i)) put(document.need(sources[source]!), i, i)
  }
  for (const { shape, matrices, indices: [index = 0] } of bent) {
    const name = `${document.need(sources[copies.sourceOf(index)]!).name} ${index + 1}`.slice(0, 200)
    operations.push(putBent(newId(), partOf(shape), new Matrix4().fromArray(matrices), { parentId: id, order: index, name }))
  }
  const gone = sources.flatMap(source => document.subtree(source))
  return [...operations, ...gone.toReversed().map((each): Operation => ({ do: 'remove', id: each }))]
}

function putBent(id: string, partId: string, place: Matrix4, fields: Partial<PlacementFields>): Operation {
  const { id: _id, ...all } = createPlacement({ id, name: '', kind: 'part', partId, ...decompose(place, [0, 0, 0]), ...fields })
  return { do: 'put', id, fields: all }
}

/**
 * The operations that turn one copy into an ordinary placement beside its arrangement, which leaves it out from then on; into
 * several where a bent one has several shapes.
 *
 * @param id the copy's
 * @returns the operations, and the ids of what it has become
 */
export function releaseCopy(document: LevelDocument, id: string, newId: () => string, partOf: PartOf = noPart): { operations: Operation[], made: string[] } {
  const { arrangementId } = copyOf(id)!
  const { parentId } = document.need(arrangementId)
  const leaveOut = withExceptions(document, [{ do: 'remove', id }])
  const inParent = parentId === null ? new Matrix4() : document.worldMatrix(parentId).clone().invert()
  const bent = bentOf(document, id)
  if (bent.length > 0) {
    const toParent = inParent.multiply(document.worldMatrix(arrangementId))
    const puts = bent.map(({ shape, matrices }) => putBent(newId(), partOf(shape), toParent.clone().multiply(new Matrix4().fromArray(matrices)), { parentId, order: lastOrder(document, parentId), name: document.need(id).name }))
    return { made: puts.map(put => put.id), operations: [...puts, ...leaveOut] }
  }
  const { operations, tops } = duplicate(document, [id], 'instance', newId)
  return { made: tops, operations: [...operations, ...leaveOut] }
}
