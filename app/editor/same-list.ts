/**
 * A list worked out anew, or the one before where nothing in it is another: whatever follows from it then rests. For
 * what is read of a level, which is asked again after every change.
 */
export const sameList = <T>(before: readonly T[] | undefined, now: readonly T[]): readonly T[] =>
  before?.length === now.length && now.every((each, i) => each === before[i]) ? before : now
