import { applyChange, ChangeError, conflicts, footprintOf } from './change'
import type { Level } from './level'
import type { Change, Operation } from './schema'

/** A change made here that the server has not answered yet, with what takes it back. */
export type Unanswered = { change: Change; inverse: Operation[] }

export type Rebased = {
  /** What is still waiting, in order, with inverses that fit the level as it is now. */
  kept: Unanswered[]
  /** What could not be kept beside the others' changes, or stood on something that could not. */
  dropped: Change[]
  touched: Set<string>
  /** All that was done to the level, in order. */
  applied: Operation[]
}

/**
 * Puts others' changes under ours: takes ours back, applies theirs, and applies ours again as far as they still can be.
 *
 * @param ours in the order they were made; the level has them applied
 * @param lost ids of ours that are given up anyway
 */
export function rebase(
  level: Level,
  ours: readonly Unanswered[],
  theirs: readonly Change[],
  lost: ReadonlySet<string>,
): Rebased {
  const touched = new Set<string>()
  const done: Operation[] = []
  const apply = (operations: readonly Operation[]): Operation[] => {
    const applied = applyChange(level, operations)
    for (const id of applied.touched) touched.add(id)
    for (const operation of operations) done.push(operation)
    return applied.inverse
  }
  for (const { inverse } of ours.toReversed()) apply(inverse)
  for (const { operations } of theirs) apply(operations)
  const theirFootprint = footprintOf(theirs)
  const kept: Unanswered[] = []
  const dropped: Change[] = []
  for (const { change } of ours) {
    try {
      if (lost.has(change.id) || conflicts(theirFootprint, footprintOf([change]))) dropped.push(change)
      else kept.push({ change, inverse: apply(change.operations) })
    } catch (error) {
      if (!(error instanceof ChangeError)) throw error
      dropped.push(change)
    }
  }
  return { kept, dropped, touched, applied: done }
}
