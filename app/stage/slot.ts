/** Shows something in a slot, or with null nothing any more. */
export type Claim<T> = (value: T | null) => void

/**
 * A place where one thing at a time is shown. Whoever shows something has it until somebody else does, and ends only
 * what is their own.
 */
export class Slot<T> {
  private owner: Claim<T> | null = null

  /** @param put shows what is in it, or nothing */
  constructor(private readonly put: (value: T | null) => void) {}

  claim(): Claim<T> {
    const mine: Claim<T> = value => {
      if (value === null && this.owner !== mine) return
      this.owner = value === null ? null : mine
      this.put(value)
    }
    return mine
  }
}
