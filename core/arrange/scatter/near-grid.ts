/** Cells of a grid that is kept as one array; larger ones share their places by a hash. */
const MOST_CELLS = 1 << 22

/** The box around places, three numbers each. */
export function boundsOf(places: Float64Array): { min: [number, number, number]; max: [number, number, number] } {
  const min: [number, number, number] = [Infinity, Infinity, Infinity]
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < places.length; i++) {
    const axis = (i % 3) as 0 | 1 | 2
    min[axis] = Math.min(min[axis], places[i]!)
    max[axis] = Math.max(max[axis], places[i]!)
  }
  return { min, max }
}

/** Finds points near others, in cells of one size. Points are named by their numbers. */
export class NearGrid {
  private heads: Int32Array
  private next = new Int32Array(1024)
  private readonly counts: [number, number, number] | null
  private readonly perMetre: number
  private readonly lowX: number
  private readonly lowY: number
  private readonly lowZ: number

  /**
   * @param cell metres along each side
   * @param places three numbers for each point
   */
  constructor(
    cell: number,
    min: readonly [number, number, number],
    max: readonly [number, number, number],
    private places: Float64Array,
  ) {
    this.lowX = min[0]
    this.lowY = min[1]
    this.lowZ = min[2]
    this.perMetre = 1 / cell
    const counts = [0, 1, 2].map(axis => Math.floor((max[axis]! - min[axis]!) / cell) + 1) as [number, number, number]
    this.counts = counts[0] * counts[1] * counts[2] <= MOST_CELLS ? counts : null
    this.heads = new Int32Array(this.counts ? counts[0] * counts[1] * counts[2] : MOST_CELLS).fill(-1)
  }

  /** After the places have moved to a larger array. */
  usePlaces(places: Float64Array): void {
    this.places = places
  }

  add(point: number): void {
    if (point >= this.next.length) {
      const longer = new Int32Array(point * 2)
      longer.set(this.next)
      this.next = longer
    }
    const { places } = this
    const at = this.at(
      Math.floor((places[point * 3]! - this.lowX) * this.perMetre),
      Math.floor((places[point * 3 + 1]! - this.lowY) * this.perMetre),
      Math.floor((places[point * 3 + 2]! - this.lowZ) * this.perMetre),
    )
    this.next[point] = this.heads[at]!
    this.heads[at] = point
  }

  /**
   * A point nearer than so far to a place; -1 if there is none.
   *
   * @param reaches how far each point keeps others away by itself, added to `own`; the greater of that and `distance`
   *   counts
   */
  nearer(
    x: number,
    y: number,
    z: number,
    distance: number,
    farthest: number,
    own = 0,
    reaches: ArrayLike<number> | null = null,
  ): number {
    const { places, next, heads, counts } = this
    // No lists are taken apart in here: that alone would take most of the time.
    let i0 = Math.floor((x - farthest - this.lowX) * this.perMetre) | 0
    let i1 = Math.floor((x + farthest - this.lowX) * this.perMetre) | 0
    let j0 = Math.floor((y - farthest - this.lowY) * this.perMetre) | 0
    let j1 = Math.floor((y + farthest - this.lowY) * this.perMetre) | 0
    let k0 = Math.floor((z - farthest - this.lowZ) * this.perMetre) | 0
    let k1 = Math.floor((z + farthest - this.lowZ) * this.perMetre) | 0
    let width = 0
    let height = 0
    if (counts !== null) {
      width = counts[0]
      height = counts[1]
      if (i0 < 0) i0 = 0
      if (j0 < 0) j0 = 0
      if (k0 < 0) k0 = 0
      if (i1 >= width) i1 = width - 1
      if (j1 >= height) j1 = height - 1
      if (k1 >= counts[2]) k1 = counts[2] - 1
    }
    const square = distance * distance
    for (let k = k0; k <= k1; k++) {
      for (let j = j0; j <= j1; j++) {
        for (let i = i0; i <= i1; i++) {
          let p = heads[width > 0 ? (k * height + j) * width + i : hashed(i, j, k)]!
          while (p >= 0) {
            const a = places[p * 3]! - x
            const b = places[p * 3 + 1]! - y
            const c = places[p * 3 + 2]! - z
            const d = a * a + b * b + c * c
            if (d < square) return p
            if (reaches !== null) {
              const both = reaches[p]! + own
              if (d < both * both) return p
            }
            p = next[p]!
          }
        }
      }
    }
    return -1
  }

  /**
   * Metres from a place to the nearest point; endless where none is nearer than `farthest`, about.
   *
   * @param except a point that does not count
   */
  nearest(x: number, y: number, z: number, farthest: number, except = -1): number {
    const { places, next, heads, counts } = this
    let i0 = Math.floor((x - farthest - this.lowX) * this.perMetre) | 0
    let i1 = Math.floor((x + farthest - this.lowX) * this.perMetre) | 0
    let j0 = Math.floor((y - farthest - this.lowY) * this.perMetre) | 0
    let j1 = Math.floor((y + farthest - this.lowY) * this.perMetre) | 0
    let k0 = Math.floor((z - farthest - this.lowZ) * this.perMetre) | 0
    let k1 = Math.floor((z + farthest - this.lowZ) * this.perMetre) | 0
    if (counts !== null) {
      i0 = Math.max(i0, 0)
      j0 = Math.max(j0, 0)
      k0 = Math.max(k0, 0)
      i1 = Math.min(i1, counts[0] - 1)
      j1 = Math.min(j1, counts[1] - 1)
      k1 = Math.min(k1, counts[2] - 1)
    }
    let least = Infinity
    for (let k = k0; k <= k1; k++)
      for (let j = j0; j <= j1; j++)
        for (let i = i0; i <= i1; i++) {
          for (let p = heads[this.at(i, j, k)]!; p >= 0; p = next[p]!) {
            const a = places[p * 3]! - x
            const b = places[p * 3 + 1]! - y
            const c = places[p * 3 + 2]! - z
            const d = a * a + b * b + c * c
            if (d < least && p !== except) least = d
          }
        }
    return Math.sqrt(least)
  }

  private at(i: number, j: number, k: number): number {
    const { counts } = this
    return counts ? (k * counts[1] + j) * counts[0] + i : hashed(i, j, k)
  }
}

const hashed = (i: number, j: number, k: number) =>
  (Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)) & (MOST_CELLS - 1)
