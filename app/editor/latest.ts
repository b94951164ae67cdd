/**
 * Of questions of one kind only the newest counts: an answer to an earlier one that comes late says what was, not what
 * is.
 */
export class Latest {
  private last = 0

  /** Notes that something newer is asked for. @returns whether that is still the newest */
  next(): () => boolean {
    const mine = ++this.last
    return () => mine === this.last
  }

  /** Nothing that was asked for so far counts any more. */
  callOff(): void {
    this.last++
  }
}
