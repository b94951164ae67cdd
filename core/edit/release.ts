import { Matrix4 } from 'three'
import { isBentKey } from '../arrange/path/bent-key'
import { definitionOf } from '../arrange/rules'
import { createPlacement, lastOrder } from '../level/create'
import type { Operation, Placement, PlacementFields } from '../level/schema'
import { decompose, localMatrix } from '../math/transform'
import { withExceptions } from '../scene/copies'
import { copyOf } from '../scene/copy-id'
import type { ShapeCopies } from '../scene/expand'
import type { LevelView } from '../scene/level-view'
import { asName } from '../units/text'
import { duplicate } from './duplicate'

/** The part that has the mesh of a bent shape. */
export type PartOf = (bentShape: string) => string

const noPart: PartOf = (shape) => {
  throw new RangeError(`there is no part for ${shape}`)
}

/** The bent shapes that copies show, each of which has to become a part before they can be released. @param id of an arrangement or a copy */
export function bentShapesOf(level: LevelView, id: string): string[] {
  return bentOf(level, id).map(({ shape }) => shape)
}

function bentOf(level: LevelView, id: string): ShapeCopies[] {
  const named = copyOf(id)
  const arrangementId = named?.arrangementId ?? id
  const { rule } = level.arranged(arrangementId).own
  const { bentAlong, keys } = definitionOf(rule)
  if (!bentAlong(rule)) return []
  const index = named && keys(rule).indexOf(named.key)
  return level.shapes(arrangementId).filter(({ shape, indices }) => isBentKey(shape) && (index === null || indices[0] === index))
}

/**
 * The operations that turn an arrangement's copies into ordinary placements in a group in its place. They stand exactly where the
 * copies stood; instances go on sharing their parts and blocks. Sources that the rule keeps stay as they are, beside their copies.
 *
 * @param newId makes an id for each
 * @param partOf needed for bent pieces alone
 */
export function release(level: LevelView, id: string, newId: () => string, partOf: PartOf = noPart): Operation[] {
  const { own, sources } = level.arranged(id)
  const operations: Operation[] = [{ do: 'put', id, fields: { kind: 'group', own: {} } }]
  const copies = level.copies(id)
  if (!copies) return operations
  const put = (source: Placement, index: number, order: number) => {
    const numbers = copies.numbersOf(index, source)
    const place = new Matrix4().fromArray(copies.ruled, index * 16).multiply(localMatrix(numbers, new Matrix4()))
    const { operations: made, tops } = duplicate(level, [source.id], 'instance', newId, AS_THEY_ARE)
    operations.push(...made.map((operation): Operation => operation.do !== 'put' || operation.id !== tops[0] ? operation : {
      ...operation, fields: { ...operation.fields, ...decompose(place, source.pivot), order, name: asName(`${source.name} ${order + 1}`) },
    }))
  }
  if (definitionOf(own.rule).keepsSources) {
    sources.forEach((source, i) => put(level.need(source), 0, sources.length + i))
    return operations
  }
  const bent = bentOf(level, id)
  const bentCopies = new Set(bent.map(({ indices }) => indices[0]!))
  for (let i = 0; i < copies.keys.count; i++) {
    const source = copies.sourceOf(i)
    if (source >= 0 && !bentCopies.has(i)) put(level.need(sources[source]!), i, i)
  }
  for (const { shape, matrices, indices: [index = 0] } of bent) {
    const name = asName(`${level.need(sources[copies.sourceOf(index)]!).name} ${index + 1}`)
    operations.push(putBent(newId(), partOf(shape), new Matrix4().fromArray(matrices), { parentId: id, order: index, name }))
  }
  const gone = sources.flatMap(source => level.subtree(source))
  return [...operations, ...gone.toReversed().map((each): Operation => ({ do: 'remove', id: each }))]
}

/** What is released gets its name from its number among the copies. */
const AS_THEY_ARE = { like: (name: string) => name }

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
export function releaseCopy(level: LevelView, id: string, newId: () => string, partOf: PartOf = noPart): { operations: Operation[], made: string[] } {
  const { arrangementId } = copyOf(id)!
  const { parentId } = level.need(arrangementId)
  const leaveOut = withExceptions(level, [{ do: 'remove', id }])
  const inParent = parentId === null ? new Matrix4() : level.worldMatrix(parentId).clone().invert()
  const bent = bentOf(level, id)
  if (bent.length > 0) {
    const toParent = inParent.multiply(level.worldMatrix(arrangementId))
    const puts = bent.map(({ shape, matrices }) => putBent(newId(), partOf(shape), toParent.clone().multiply(new Matrix4().fromArray(matrices)), { parentId, order: lastOrder(level, parentId), name: level.need(id).name }))
    return { made: puts.map(put => put.id), operations: [...puts, ...leaveOut] }
  }
  const { operations, tops } = duplicate(level, [id], 'instance', newId, { like: () => asName(level.need(id).name) })
  return { made: tops, operations: [...operations, ...leaveOut] }
}
