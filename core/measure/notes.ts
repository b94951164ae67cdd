import type { Vector3 } from 'three'
import type { Answer, Operation, Thread } from '../level/schema'
import type { LevelView } from '../scene/level-view'
import { endAt, placeOfEnd } from './definition'

/** A note with what was said to it, the oldest first, and where it is now. */
export type TalkedAbout = {
  thread: Thread
  answers: readonly Answer[]
  at: Vector3
  /** What it is on, in words; null in space, or where that is gone and the note stayed. */
  on: string | null
}

/** All notes of a level, the oldest first. */
export function notesOf(level: LevelView): TalkedAbout[] {
  const answers = new Map<string, Answer[]>([...level.threads.keys()].map(id => [id, []]))
  for (const answer of level.answers.values()) answers.get(answer.threadId)?.push(answer)
  return [...level.threads.values()].toSorted(byWhen).map(thread => {
    const { at, isGone } = placeOfNote(level, thread)
    const { on } = thread.at
    return {
      thread,
      answers: answers.get(thread.id)!.toSorted(byWhen),
      at,
      on: on === null || isGone ? null : level.need(on).name,
    }
  })
}

/** Where a note is: on its thing wherever that has gone, or where it was last. */
export function placeOfNote(level: LevelView, { at }: Thread): { at: Vector3; isGone: boolean } {
  return placeOfEnd(at, { level, matrixOf: id => level.worldMatrix(id) })
}

/**
 * Begins a note at a place.
 *
 * @param on the thing or the copy that it is to go along with; null for a point of space
 */
export function newThread(
  level: LevelView,
  { id, text, by, when, at, on }: Pick<Thread, 'id' | 'text' | 'by' | 'when'> & { at: Vector3; on: string | null },
): Operation {
  return { do: 'put-thread', id, fields: { text, by, when, done: false, at: endAt(level, on, at) } }
}

/** Takes a note away with what was said to it. */
export function removeThread(level: LevelView, id: string): Operation[] {
  const answers = [...level.answers.values()].filter(({ threadId }) => threadId === id)
  return [
    { do: 'remove-thread', id },
    ...answers.map(({ id: answer }): Operation => ({ do: 'remove-answer', id: answer })),
  ]
}

const byWhen = (a: { when: string; id: string }, b: { when: string; id: string }) =>
  a.when < b.when ? -1 : a.when > b.when ? 1 : a.id < b.id ? -1 : 1
