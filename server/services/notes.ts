import { isOfNotes } from '../../core/level/change'
import type { Level } from '../../core/level/level'
import type { Change, Operation } from '../../core/level/schema'
import { ApiError } from '../utils/api-error'
import type { Doer } from './accounts'

/**
 * Changes as whoever makes them made them: with their name as the author and in what they write, if it is proven, and
 * nothing written later than now, whatever their clock says.
 */
export function asMadeBy(by: Doer, changes: readonly Change[], now = new Date().toISOString()): Change[] {
  return changes.map(change => ({
    ...change,
    author: by?.name ?? change.author,
    operations: change.operations.map(operation => asSaidBy(by, operation, now)),
  }))
}

function asSaidBy(by: Doer, operation: Operation, now: string): Operation {
  if (operation.do !== 'put-thread' && operation.do !== 'put-answer') return operation
  const { fields } = operation
  return {
    ...operation,
    fields: {
      ...fields,
      ...(by && fields.by !== undefined && { by: by.name }),
      ...(fields.when !== undefined && fields.when > now && { when: now }),
    },
  } as Operation
}

/**
 * Lets who may only write notes do that: begin them, answer, say that one is done or open again, and change or remove
 * what they wrote themselves.
 *
 * @param level as it is before the change
 * @throws ApiError 403
 */
export function demandNotesAlone({ threads, answers }: Level, { operations }: Change, by: Doer): void {
  for (const operation of operations) {
    const { do: what, id } = operation
    const known = what.endsWith('-thread') ? threads.get(id) : answers.get(id)
    const isOwn = known === undefined || known.by === by?.name
    const isDone = what === 'put-thread' && Object.keys(operation.fields).every(field => field === 'done')
    if (!isOfNotes(operation) || !(isOwn || isDone))
      throw new ApiError(403, 'role', 'Your role is Noting: notes may be written here, and nothing else changed.')
  }
}
