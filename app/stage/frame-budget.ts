/** A frame longer than this, in milliseconds, is too long while the view moves. */
const SLOW = 28
const COARSEST = 0.5
/** How long the view has to rest before the full resolution comes back. */
const REST = 180

/** Lowers the resolution step by step while frames come too slowly, and restores it when the view rests. */
export class FrameBudget {
  private ratio: number
  private last = 0
  private average = 16
  private timer: ReturnType<typeof setTimeout> | undefined

  constructor(private readonly full: number, private readonly apply: (ratio: number) => void) {
    this.ratio = full
    apply(full)
  }

  /** Counts a frame. @param time in milliseconds @returns frames per second, averaged over the last few */
  count(time: number): number {
    clearTimeout(this.timer)
    const gap = time - this.last
    this.last = time
    // A longer gap is no slow frame: nothing was to be drawn.
    if (gap < 250) this.average += (gap - this.average) * 0.2
    if (this.average > SLOW && this.ratio > COARSEST && gap < 250) {
      this.set(Math.max(COARSEST, this.ratio * 0.8))
      this.average = SLOW
    }
    return Math.round(1000 / this.average)
  }

  /** Call after the last frame of a movement. @param redraw is called once the resolution is restored */
  rest(redraw: () => void): void {
    if (this.ratio === this.full) return
    clearTimeout(this.timer)
    this.timer = setTimeout(() => {
      this.set(this.full)
      redraw()
    }, REST)
  }

  dispose(): void {
    clearTimeout(this.timer)
  }

  private set(ratio: number): void {
    this.ratio = ratio
    this.apply(ratio)
  }
}
