import { Matrix4 } from 'three'
import type { LevelDocument } from '../level/document'
import type { Operation, Placement } from '../level/schema'
import { localMatrix } from '../level/transform'
import { decompose } from '../level/tree'
import type { ArrangementOwn, Exception } from './arrangement'
import type { CopyPlace } from './count'
import { arrangedOf } from './expand'
import { hasCorners } from './path-layout'
import type { PlacedCopies } from './placed'
import type { Rule } from './rule'
import { groundBelow } from './settle'
import { exceptionBetween, numbersAt, placeCopies } from './placed'

// One copy of an arrangement can be picked, moved, turned, sized and hidden like any placement. For that it has an id of its own
// and is looked up like one; what is done to it becomes an exception of the arrangement.

/** What one copy cannot have of its own, or a copy that is not there. */
export class CopyError extends Error {
  override name = 'CopyError'
}

const MARK = '#'

export const copyId = (arrangementId: string, key: string) => `${arrangementId}${MARK}${key}`

/** The arrangement and the key that a copy's id names; null if it names no copy. */
export function copyOf(id: string): { arrangementId: string, key: string } | null {
  const at = id.indexOf(MARK)
  return at < 0 ? null : { arrangementId: id.slice(0, at), key: id.slice(at + 1) }
}

/** People count from one. */
export function copyName(rule: Rule, [row, column, layer]: CopyPlace): string {
  if (rule.rule === 'path' && hasCorners(rule)) return layer > 0 ? `corner ${row + 1}` : `stretch ${row + 1}, piece ${column + 1}`
  if (rule.rule !== 'grid' && rule.rule !== 'fan') return `copy ${column + 1}`
  return `row ${row + 1}, column ${column + 1}${layer > 0 ? `, layer ${layer + 1}` : ''}`
}

type Copy = { arrangementId: string, own: ArrangementOwn, copies: PlacedCopies, index: number, source: Placement }

function findCopy(document: LevelDocument, id: string): Copy | null {
  const named = copyOf(id)
  if (!named || !document.arrangementIds.has(named.arrangementId)) return null
  const { own, sources } = arrangedOf(document, named.arrangementId)
  if (sources.length === 0 || own.rule.rule === 'mirror') return null
  const copies = placeCopies(own, sources.length, groundBelow(document, document.worldMatrix(named.arrangementId)))
  const index = copies.places.indexOf(named.key)
  const source = index === null ? -1 : copies.sourceOf(index)
  return index === null || source < 0 ? null : { arrangementId: named.arrangementId, own, copies, index, source: document.need(sources[source]!) }
}

/** A copy as if it were a placement below its arrangement; undefined if there is none of that id, or it is hidden. */
export function copyAsPlacement(document: LevelDocument, id: string): Placement | undefined {
  const found = findCopy(document, id)
  if (!found) return undefined
  const { arrangementId, own, copies, index, source } = found
  const matrix = new Matrix4().fromArray(copies.ruled, index * 16).multiply(localMatrix(copies.numbersOf(index, source), new Matrix4()))
  return { ...source, ...decompose(matrix, source.pivot), id, parentId: arrangementId, name: `${source.name}, ${copyName(own.rule, copies.places.at(index))}`, order: index, hidden: false, locked: false, layerId: null }
}

/** Fields of a copy that may be put. */
const MAY_DIFFER = ['translation', 'rotation', 'scale', 'hidden']

/** The source that a copy shows. @throws RangeError if there is no such copy */
export function sourceOfCopy(document: LevelDocument, id: string): string {
  const found = findCopy(document, id)
  if (!found) throw new RangeError(`there is no copy ${id}`)
  return found.source.id
}

/** The numbers of a thing beside the arrangement that stands as a copy does, or would with other numbers of its own. */
export function besideArrangement(document: LevelDocument, id: string, numbers: Partial<Placement> = {}): Pick<Placement, 'parentId' | 'translation' | 'rotation' | 'scale'> {
  const { arrangementId } = copyOf(id)!
  const copy = { ...document.need(id), ...numbers }
  const matrix = localMatrix(document.need(arrangementId), new Matrix4()).multiply(localMatrix(copy, new Matrix4()))
  return { ...decompose(matrix, copy.pivot), parentId: document.need(arrangementId).parentId }
}

/**
 * The same operations with those on copies turned into exceptions of their arrangements, one operation for each arrangement.
 *
 * @throws CopyError for what one copy cannot have of its own
 */
export function withExceptions(document: LevelDocument, operations: readonly Operation[]): Operation[] {
  if (!operations.some(operation => copyOf(operation.id))) return [...operations]
  const others: Operation[] = []
  const owns = new Map<string, ArrangementOwn>()
  for (const operation of operations) {
    const named = copyOf(operation.id)
    if (!named) {
      others.push(operation)
      continue
    }
    const own = owns.get(named.arrangementId) ?? arrangedOf(document, named.arrangementId).own
    const exception = exceptionFor(document, operation)
    const { [named.key]: _old, ...kept } = own.exceptions ?? {}
    owns.set(named.arrangementId, withoutNothing({ ...own, exceptions: exception ? { ...kept, [named.key]: exception } : kept }))
  }
  return [...others, ...[...owns].map(([id, own]): Operation => ({ do: 'put', id, fields: { own } }))]
}

/** An arrangement without an empty list of exceptions. */
export function withoutNothing({ exceptions, ...own }: ArrangementOwn): ArrangementOwn {
  return exceptions && Object.keys(exceptions).length > 0 ? { ...own, exceptions } : own
}

function exceptionFor(document: LevelDocument, operation: Operation): Exception | null {
  const found = findCopy(document, operation.id)
  if (!found) throw new CopyError('There is no such copy.')
  const { own, copies, source } = found
  const { source: swapped } = own.exceptions?.[copies.places.keyAt(found.index)] ?? {}
  const kept: Exception = swapped === undefined ? {} : { source: swapped }
  if (operation.do === 'remove') return { ...kept, hidden: true }
  const stranger = operation.do === 'put' ? Object.keys(operation.fields).find(name => !MAY_DIFFER.includes(name)) : operation.do
  if (operation.do !== 'put' || stranger) throw new CopyError(`One copy cannot have a ${stranger} of its own. Release it first; then it is a thing like any other.`)
  if (operation.fields.hidden) return { ...kept, hidden: true }
  const wanted = localMatrix({ ...document.need(operation.id), ...operation.fields }, new Matrix4())
  const plain = placeCopies({ ...own, exceptions: undefined }, document.children(found.arrangementId).length, null)
  const exception = { ...kept, ...exceptionBetween(plain.numbersOf(found.index, source), numbersAt(copies, found.index, wanted, source.pivot)) }
  return Object.keys(exception).length > 0 ? exception : null
}
