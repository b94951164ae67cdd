import type { Cast } from './casting'
import { boundsOf, NearGrid } from './near-grid'

/** Where clumps are. */
export class ClumpMiddles {
  private readonly grid: NearGrid | null

  constructor(
    { count, places }: Cast,
    private readonly radius: number,
  ) {
    const { min, max } = boundsOf(places)
    this.grid = count > 0 ? new NearGrid(radius, min, max, places) : null
    for (let i = 0; i < count; i++) this.grid!.add(i)
  }

  /** 1 in the middle of a clump, down to 0 at its edge and beyond. */
  inside(x: number, y: number, z: number): number {
    const share = (this.grid?.nearest(x, y, z, this.radius) ?? Infinity) / this.radius
    return share < 1 ? 1 - share * share : 0
  }
}
