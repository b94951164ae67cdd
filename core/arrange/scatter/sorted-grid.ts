import type { Neighbours } from './neighbours'

/** Cells that are kept as one array however few points there are; where there are far more, they share by a hash. */
const FEW_CELLS = 1 << 16
/**
 * Cells are so many times as long along the axis in which points lie least far apart: copies lie on surfaces, few of
 * which lie one above another.
 */
const FLAT = 4
/** Numbers of each point: where it is, and what it keeps free by itself. */
const EACH = 4

/**
 * Points in the order of the cells they are in, so that those of neighbouring cells lie side by side. It is made anew
 * when there are more: then it finds what is in a box several times quicker than cells that grow point by point.
 */
export class SortedGrid {
  private readonly starts: Int32Array
  private readonly all: Float64Array
  private readonly counts: [number, number, number] | null
  /** Cells a metre along each axis. */
  private readonly perMetre: readonly [number, number, number]

  /**
   * @param cell metres along the sides of cells, about
   * @param points the numbers of those that it holds
   * @param places of all points, three numbers each
   * @param reaches metres each keeps free by itself; null if none does
   */
  constructor(
    cell: number,
    private readonly min: readonly [number, number, number],
    max: readonly [number, number, number],
    points: readonly number[],
    places: Float64Array,
    reaches: Float64Array | null,
  ) {
    const most = Math.max(FEW_CELLS, 16 * points.length)
    const small = cellsOf(cell, min, max)
    const { counts, product, perMetre } = small.product <= most ? small : cellsOf(2 * cell, min, max)
    this.perMetre = perMetre
    this.counts = product <= most ? counts : null
    const shelves = this.counts ? product : 2 ** Math.ceil(Math.log2(2 * points.length + 2))
    this.starts = new Int32Array(shelves + 2)
    this.all = new Float64Array(points.length * EACH)
    const { starts, all } = this
    const cells = new Int32Array(points.length)
    // Counted two places farther on, so that filling moves each beginning to where it belongs.
    for (let n = 0; n < points.length; n++) {
      const p = points[n]!
      cells[n] = this.cellOf(places[p * 3]!, places[p * 3 + 1]!, places[p * 3 + 2]!)
      starts[cells[n]! + 2]!++
    }
    for (let at = 2; at < starts.length; at++) starts[at]! += starts[at - 1]!
    for (let n = 0; n < points.length; n++) {
      const p = points[n]!
      const to = starts[cells[n]! + 1]!++ * EACH
      all[to] = places[p * 3]!
      all[to + 1] = places[p * 3 + 1]!
      all[to + 2] = places[p * 3 + 2]!
      all[to + 3] = reaches === null ? 0 : reaches[p]!
    }
  }

  /**
   * Finds the points that may keep something of a box free; some of them twice where cells share their places.
   *
   * @param box least and greatest coordinates
   * @param farthest metres that any of them keeps free at the most
   */
  findAround(box: Float64Array, farthest: number, into: Neighbours): void {
    const { min, counts, starts } = this
    const perX = this.perMetre[0]
    const perY = this.perMetre[1]
    const perZ = this.perMetre[2]
    const i0 = Math.floor((box[0]! - farthest - min[0]) * perX)
    const j0 = Math.floor((box[1]! - farthest - min[1]) * perY)
    const k0 = Math.floor((box[2]! - farthest - min[2]) * perZ)
    const i1 = Math.floor((box[3]! + farthest - min[0]) * perX)
    const j1 = Math.floor((box[4]! + farthest - min[1]) * perY)
    const k1 = Math.floor((box[5]! + farthest - min[2]) * perZ)
    if (counts === null) {
      for (let k = k0; k <= k1; k++)
        for (let j = j0; j <= j1; j++)
          for (let i = i0; i <= i1; i++) {
            const cell = this.hashed(i, j, k)
            this.take(starts[cell]!, starts[cell + 1]!, box, farthest, into)
          }
      return
    }
    const first = Math.max(i0, 0)
    const last = Math.min(i1, counts[0] - 1)
    if (first > last) return
    for (let k = Math.max(k0, 0); k <= k1 && k < counts[2]; k++)
      for (let j = Math.max(j0, 0); j <= j1 && j < counts[1]; j++) {
        const row = (k * counts[1] + j) * counts[0]
        this.take(starts[row + first]!, starts[row + last + 1]!, box, farthest, into)
      }
  }

  /** Takes those of some that lie side by side which are near enough to the box. */
  private take(from: number, to: number, box: Float64Array, farthest: number, into: Neighbours): void {
    const { all } = this
    for (let at = from * EACH; at < to * EACH; at += EACH) {
      const x = all[at]!
      const y = all[at + 1]!
      const z = all[at + 2]!
      if (x < box[0]! - farthest || x > box[3]! + farthest) continue
      if (y < box[1]! - farthest || y > box[4]! + farthest) continue
      if (z < box[2]! - farthest || z > box[5]! + farthest) continue
      into.add(x, y, z, all[at + 3]!)
    }
  }

  private cellOf(x: number, y: number, z: number): number {
    const { min, perMetre, counts } = this
    const i = Math.floor((x - min[0]) * perMetre[0])
    const j = Math.floor((y - min[1]) * perMetre[1])
    const k = Math.floor((z - min[2]) * perMetre[2])
    return counts ? (k * counts[1] + j) * counts[0] + i : this.hashed(i, j, k)
  }

  private hashed(i: number, j: number, k: number): number {
    const hash = Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ Math.imul(k, 83492791)
    return hash & (this.starts.length - 3)
  }
}

type Cells = { counts: [number, number, number]; product: number; perMetre: [number, number, number] }

function cellsOf(cell: number, min: readonly [number, number, number], max: readonly [number, number, number]): Cells {
  const lengths = [max[0] - min[0], max[1] - min[1], max[2] - min[2]]
  const thin = lengths.indexOf(Math.min(...lengths))
  const sides = lengths.map((_, axis) => (axis === thin ? FLAT * cell : cell))
  const counts = lengths.map((length, axis) => Math.floor(length / sides[axis]!) + 1) as Cells['counts']
  return {
    counts,
    product: counts[0] * counts[1] * counts[2],
    perMetre: sides.map(side => 1 / side) as Cells['perMetre'],
  }
}
