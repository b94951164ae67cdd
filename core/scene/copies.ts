import { Matrix4 } from 'three'
import type { ArrangementOwn, Exception } from '../arrange/arrangement'
import { exceptionBetween, numbersAt } from '../arrange/place-copies'
import { fieldWord } from '../level/field-words'
import type { Operation, Placement } from '../level/schema'
import { decompose, localMatrix } from '../math/transform'
import { copyOf } from './copy-id'
import type { Copy, LevelView } from './level-view'

// One copy of an arrangement can be picked, moved, turned, sized and hidden like any placement. For that it has an id
// of its own and is looked up like one; what is done to it becomes an exception of the arrangement.

/** What one copy cannot have of its own, or a copy that is not there. */
export class CopyError extends Error {
  override name = 'CopyError'
}

/** Fields of a copy that may be put. */
const MAY_DIFFER = ['translation', 'rotation', 'scale', 'hidden']

/** The source that a copy shows. @throws RangeError if there is no such copy */
export function sourceOfCopy(level: LevelView, id: string): string {
  const found = level.copy(id)
  if (!found) throw new RangeError(`there is no copy ${id}`)
  return found.source.id
}

/** The numbers of a thing beside the arrangement that stands as a copy does, or would with other numbers of its own. */
export function besideArrangement(
  level: LevelView,
  id: string,
  numbers: Partial<Placement> = {},
): Pick<Placement, 'parentId' | 'translation' | 'rotation' | 'scale'> {
  const { arrangementId } = copyOf(id)!
  const copy = { ...level.need(id), ...numbers }
  const matrix = localMatrix(level.need(arrangementId), new Matrix4()).multiply(localMatrix(copy, new Matrix4()))
  return { ...decompose(matrix, copy.pivot), parentId: level.need(arrangementId).parentId }
}

/** Where a copy stands in its arrangement's axes, skewed or not: its own numbers cannot say the former. */
export function copyMatrix({ copies, index, source }: Pick<Copy, 'copies' | 'index' | 'source'>): Matrix4 {
  return new Matrix4()
    .fromArray(copies.ruled, index * 16)
    .multiply(localMatrix(copies.numbersOf(index, source), new Matrix4()))
}

/**
 * All that moves when placements do: what hangs below them; and of one copy its whole arrangement, whose copies are
 * found as one.
 */
export function movingWith(level: LevelView, ids: readonly string[]): Set<string> {
  return new Set(
    ids.flatMap(id => {
      const copy = copyOf(id)
      return copy ? [id, copy.arrangementId] : level.subtree(id)
    }),
  )
}

/**
 * The same operations with those on copies turned into exceptions of their arrangements, one operation for each
 * arrangement.
 *
 * @throws CopyError for what one copy cannot have of its own
 */
export function withExceptions(level: LevelView, operations: readonly Operation[]): Operation[] {
  if (!operations.some(operation => copyOf(operation.id))) return [...operations]
  const others: Operation[] = []
  const changed = new Map<string, Record<string, Exception>>()
  for (const operation of operations) {
    const named = copyOf(operation.id)
    if (!named) {
      others.push(operation)
      continue
    }
    let exceptions = changed.get(named.arrangementId)
    if (!exceptions)
      changed.set(named.arrangementId, (exceptions = { ...level.arranged(named.arrangementId).own.exceptions }))
    const exception = exceptionFor(level, operation)
    if (exception) exceptions[named.key] = exception
    else delete exceptions[named.key]
  }
  return [
    ...others,
    ...[...changed].map(
      ([id, exceptions]): Operation => ({
        do: 'put',
        id,
        fields: { own: withoutNothing({ ...level.arranged(id).own, exceptions }) },
      }),
    ),
  ]
}

/** An arrangement without an empty list of exceptions. */
export function withoutNothing({ exceptions, ...own }: ArrangementOwn): ArrangementOwn {
  return exceptions && Object.keys(exceptions).length > 0 ? { ...own, exceptions } : own
}

function exceptionFor(level: LevelView, operation: Operation): Exception | null {
  const found = level.copy(operation.id)
  if (!found) throw new CopyError('There is no such copy.')
  const { own, copies, index, source } = found
  const { source: swapped, added } = own.exceptions?.[copies.keys.keyAt(index)] ?? {}
  const kept: Exception = { ...(swapped === undefined ? {} : { source: swapped }), ...(added ? { added } : {}) }
  // What was put down by hand has no place to stay hidden at.
  if (operation.do === 'remove') return added ? null : { ...kept, hidden: true }
  const stranger =
    operation.do === 'put' ? Object.keys(operation.fields).find(name => !MAY_DIFFER.includes(name)) : operation.do
  if (operation.do !== 'put' || stranger)
    throw new CopyError(
      `One copy cannot have a ${fieldWord(stranger ?? '')} of its own. Release it first; then it is a thing like any other.`,
    )
  if (operation.fields.hidden) return { ...kept, hidden: true }
  const wanted = localMatrix({ ...found.placement, ...operation.fields }, new Matrix4())
  const exception = {
    ...kept,
    ...exceptionBetween(copies.variedOf(index, source), numbersAt(copies, index, wanted, source.pivot)),
  }
  return Object.keys(exception).length > 0 ? exception : null
}
