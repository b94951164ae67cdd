import type { Chosen, ChunkSource } from './choose-chunks'

/**
 * What is to be drawn, in pieces of so many triangles: what stands first, first. A chunk that is too much for one piece
 * is cut.
 */
export class Pieces {
  private at = 0
  /** Of the chunk that is next, what is drawn already. */
  private from = 0
  private taken = 0
  private readonly all: number

  constructor(
    private readonly sources: readonly ChunkSource[],
    private readonly chosen: readonly Chosen[],
  ) {
    this.all = chosen.reduce((sum, { count }) => sum + count, 0)
  }

  /** Of all instances, those that were taken, from 0 to 1. */
  get share(): number {
    return this.all === 0 ? 1 : this.taken / this.all
  }

  get isOver(): boolean {
    return this.at === this.chosen.length
  }

  /** The next piece: of no more triangles than a number, but one instance at least. */
  take(most: number): { chosen: Chosen[]; triangles: number } {
    const chosen: Chosen[] = []
    let triangles = 0
    while (!this.isOver) {
      const next = this.chosen[this.at]!
      const each = this.sources[next.source]!.levels[next.level]!.triangles
      const left = next.count - this.from
      const room = Math.floor((most - triangles) / Math.max(each, 1))
      const count = Math.min(left, Math.max(room, chosen.length === 0 ? 1 : 0))
      if (count === 0) break
      const { start, box } = next.chunk
      chosen.push({ ...next, count, chunk: { start: start + this.from, count, box } })
      triangles += count * each
      this.taken += count
      this.from += count
      if (this.from < next.count) break
      this.at++
      this.from = 0
    }
    return { chosen, triangles }
  }
}
