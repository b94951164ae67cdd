/** Told how far something is, from 0 to 1. */
export type OnShare = (share: number) => void

/** Counts what is done of all that is to be done, and says how far that is. */
export class Counted {
  private done = 0

  /** @param all what there is in all, as nearly as it is known; more than that is no more than done */
  constructor(
    private readonly all: number,
    private readonly told: OnShare = () => {},
  ) {}

  pass(count = 1): void {
    this.done += count
    this.told(this.all > 0 ? Math.min(1, this.done / this.all) : 1)
  }
}

/** A part of the way: what is told from 0 to 1 there is told further on from one share to another. */
export const between =
  (from: number, to: number, told: OnShare): OnShare =>
  share =>
    told(from + (to - from) * share)
