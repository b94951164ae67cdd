import type { Color } from 'three'
import { Vector3 } from 'three'

/**
 * A lamp as it shines: where, how far (metres), how bright in linear light along its axis, which way, between which
 * cosines it fades (-2 and -1.5 to all sides), and of an area its square metres over π; 0 of others.
 */
export type Lamp = {
  at: Vector3
  range: number
  color: Color
  direction: Vector3
  cosInner: number
  cosOuter: number
  area: number
}

/** At most so many lamps light a place; the nearest win. */
export const LAMPS_PER_CELL = 8
/** Cells along each axis, and in all. */
const [MOST_ALONG, MOST_CELLS] = [96, 120_000]
/** The least size of a cell in metres. */
const LEAST_CELL = 1

/** Space around lamps in equal cells, each with the numbers of the lamps that are nearest to it and reach it. */
export class LampCells {
  readonly origin: Vector3
  /** Along X, Y, Z. */
  readonly counts: Vector3
  /** Of a cell, in metres. */
  readonly size: number
  /** `LAMPS_PER_CELL` numbers for each cell, by rows of X, Z and then Y; -1 for none. */
  readonly lists: Float32Array

  constructor(lamps: readonly Lamp[]) {
    const [least, most] = [new Vector3(Infinity, Infinity, Infinity), new Vector3(-Infinity, -Infinity, -Infinity)]
    for (const { at, range } of lamps) {
      least.min(at.clone().subScalar(range))
      most.max(at.clone().addScalar(range))
    }
    const across = most.clone().sub(least)
    let size = Math.max(LEAST_CELL, across.x / MOST_ALONG, across.y / MOST_ALONG, across.z / MOST_ALONG)
    const count = (of: number) =>
      across.toArray().reduce((product, side) => product * Math.max(1, Math.ceil(side / of)), 1)
    while (count(size) > MOST_CELLS) size *= 1.15
    this.size = size
    this.origin = least
    this.counts = new Vector3(
      ...(across.toArray().map(side => Math.max(1, Math.ceil(side / size))) as [number, number, number]),
    )
    const cells = this.counts.x * this.counts.y * this.counts.z
    this.lists = new Float32Array(cells * LAMPS_PER_CELL).fill(-1)
    const distances = new Float32Array(cells * LAMPS_PER_CELL).fill(Infinity)
    for (const [number, lamp] of lamps.entries()) this.add(number, lamp, distances)
  }

  /** The lamps that light a place, by their numbers, the nearest to its cell first. */
  at(place: Vector3): number[] {
    const { x, y, z } = place.clone().sub(this.origin).divideScalar(this.size).floor()
    if (x < 0 || y < 0 || z < 0 || x >= this.counts.x || y >= this.counts.y || z >= this.counts.z) return []
    const first = ((y * this.counts.z + z) * this.counts.x + x) * LAMPS_PER_CELL
    return [...this.lists.subarray(first, first + LAMPS_PER_CELL)].filter(number => number >= 0)
  }

  private add(number: number, { at, range }: Lamp, distances: Float32Array): void {
    const { origin, size, counts, lists } = this
    const cell = (value: number, from: number, most: number) =>
      Math.min(Math.max(Math.floor((value - from) / size), 0), most - 1)
    const [x0, x1] = [cell(at.x - range, origin.x, counts.x), cell(at.x + range, origin.x, counts.x)]
    const [y0, y1] = [cell(at.y - range, origin.y, counts.y), cell(at.y + range, origin.y, counts.y)]
    const [z0, z1] = [cell(at.z - range, origin.z, counts.z), cell(at.z + range, origin.z, counts.z)]
    // To the cell's middle; a cell is reached if its nearest corner may be.
    const reach = (range + size * 0.87) ** 2
    for (let y = y0; y <= y1; y++) {
      const dy = origin.y + (y + 0.5) * size - at.y
      for (let z = z0; z <= z1; z++) {
        const dz = origin.z + (z + 0.5) * size - at.z
        for (let x = x0; x <= x1; x++) {
          const dx = origin.x + (x + 0.5) * size - at.x
          const away = dx * dx + dy * dy + dz * dz
          if (away > reach) continue
          const first = ((y * counts.z + z) * counts.x + x) * LAMPS_PER_CELL
          let place = LAMPS_PER_CELL
          while (place > 0 && distances[first + place - 1]! > away) place--
          if (place === LAMPS_PER_CELL) continue
          for (let k = LAMPS_PER_CELL - 1; k > place; k--) {
            lists[first + k] = lists[first + k - 1]!
            distances[first + k] = distances[first + k - 1]!
          }
          lists[first + place] = number
          distances[first + place] = away
        }
      }
    }
  }
}
