import { Quick } from '../../math/random'
import type { Cast, CastOptions } from './casting'
import type { Facets } from './facets'
import { NearGrid } from './near-grid'
import type { Neighbours } from './neighbours'
import type { Candidates } from './pieces'
import { longer, SIDES } from './pieces'
import { SortedGrid } from './sorted-grid'

/** Octaves of room that are told apart. */
const SIZES = 12
/** What keeps less free than this share of a piece's longest side does not cover any half of it. */
const COVERS = 0.35

/** The candidates that were taken, in order. */
export class Taken {
  count = 0
  counted = 0
  private places = new Float64Array(3072)
  private facetOf = new Int32Array(1024)
  private names = new Int32Array(2048)
  private births = new Float64Array(1024)
  private reaches = new Float64Array(1024)
  /** Those that need so much room, by its octave: in cells as large as that. */
  private readonly grids: (NearGrid | undefined)[] = []
  /** Those that need no more than that, in cells of the same size; made once a candidate of it is looked at. */
  private readonly upTo: (NearGrid | undefined)[] = []
  /** All that are in them, by their octaves. */
  private readonly near: number[][] = []
  /** The same when the level began, sorted; made once a piece is as small as what they keep free. */
  private readonly sorted: (SortedGrid | undefined)[] = []
  private readonly box = new Float64Array(6)
  /** Metres that anything keeps free by itself, at the least. */
  private readonly leastRoom: number
  /** The most room in each octave. */
  private readonly roomUpTo: readonly number[]
  private keepsOff = false
  private radius = -1
  /** What is looked at. */
  private min: [number, number, number] = [0, 0, 0]
  private max: [number, number, number] = [0, 0, 0]
  private readonly lowest: [number, number, number] = [Infinity, Infinity, Infinity]
  private readonly highest: [number, number, number] = [-Infinity, -Infinity, -Infinity]
  private readonly chance = new Quick()

  constructor(
    facets: Facets,
    private readonly options: CastOptions,
  ) {
    const { roomOf, rooms } = options
    this.leastRoom = roomOf ? rooms[0] : 0
    this.roomUpTo = Array.from({ length: SIZES + 1 }, (_, size) => (roomOf ? rooms[1] * 2 ** (size - SIZES) : 0))
    for (let f = 0; f < facets.count; f++) {
      const e = facets.frames[facets.surface[f]!]!.rigid
      for (let k = f * SIDES; k < f * SIDES + SIDES; k += 3) {
        const [x, y, z] = [facets.corners[k]!, facets.corners[k + 1]!, facets.corners[k + 2]!]
        for (let axis = 0; axis < 3; axis++) {
          const value = e[axis]! * x + e[4 + axis]! * y + e[8 + axis]! * z + e[12 + axis]!
          if (value < this.lowest[axis]!) this.lowest[axis] = value
          if (value > this.highest[axis]!) this.highest[axis] = value
        }
      }
    }
  }

  /**
   * @param radius metres between any two, from now on
   * @param margin around where copies are wanted beyond which nothing is looked at any more
   */
  begin(radius: number, margin: number): void {
    if (radius !== this.radius) this.look(radius, margin)
    this.sorted.length = 0
  }

  /** Keeps what is near by another distance. */
  private look(radius: number, margin: number): void {
    this.radius = radius
    const { roomOf, rooms, around } = this.options
    const widest = Math.max(radius, roomOf ? 2 * rooms[1] : 0)
    const box = around?.(margin + widest) ?? null
    const [min, max] = [[...this.lowest], [...this.highest]] as [[number, number, number], [number, number, number]]
    if (box) {
      min[0] = Math.max(min[0], box.minX)
      min[2] = Math.max(min[2], box.minZ)
      max[0] = Math.max(Math.min(max[0], box.maxX), min[0])
      max[2] = Math.max(Math.min(max[2], box.maxZ), min[2])
    }
    this.min = min
    this.max = max
    this.grids.length = this.upTo.length = this.near.length = 0
    if (widest > 0) for (let i = 0; i < this.count; i++) this.keepNear(i)
    this.keepsOff = widest > 0
  }

  /** What is outside of all that is looked at from now on is in nobody's way. */
  private keepNear(i: number): void {
    const { min, max, upTo } = this
    const [x, z] = [this.places[i * 3]!, this.places[i * 3 + 2]!]
    if (x < min[0] || x > max[0] || z < min[2] || z > max[2]) return
    const size = this.sizeOf(this.reaches[i]!)
    this.gridOf(this.grids, size).add(i)
    ;(this.near[size] ??= []).push(i)
    for (let other = size; other < upTo.length; other++) upTo[other]?.add(i)
  }

  /** Which octave a room is in; where nothing needs any, there is one. */
  private sizeOf(room: number): number {
    const { roomOf, rooms } = this.options
    return roomOf ? Math.max(0, Math.ceil(Math.log2(Math.max(room, 1e-9) / Math.max(rooms[1], 1e-9)) + SIZES)) : 0
  }

  private gridOf(grids: (NearGrid | undefined)[], size: number): NearGrid {
    return (grids[size] ??= new NearGrid(this.cellOf(size), this.min, this.max, this.places))
  }

  /** Metres along each side of the cells of an octave. */
  private cellOf(size: number): number {
    return Math.max(this.radius, 2 * this.roomUpTo[size]!)
  }

  /** Whether a candidate is too near to one that was taken. */
  private isTooNear(x: number, y: number, z: number, room: number): boolean {
    const { radius, grids } = this
    if (!this.keepsOff) return false
    if (!this.options.roomOf) return (grids[0]?.nearer(x, y, z, radius, radius) ?? -1) >= 0
    const size = this.sizeOf(room)
    // What needs as much room or less is looked for in the candidate's own cells, of which there are few around it.
    if (this.isNear(this.smallerThan(size), size, x, y, z, room)) return true
    for (let larger = size + 1; larger < grids.length; larger++) {
      const grid = grids[larger]
      if (grid && this.isNear(grid, larger, x, y, z, room)) return true
    }
    return false
  }

  private isNear(grid: NearGrid, size: number, x: number, y: number, z: number, room: number): boolean {
    const farthest = Math.max(this.radius, room + this.roomUpTo[size]!)
    return grid.nearer(x, y, z, this.radius, farthest, room, this.reaches) >= 0
  }

  private smallerThan(size: number): NearGrid {
    const found = this.upTo[size]
    if (found) return found
    const grid = this.gridOf(this.upTo, size)
    for (const list of this.near.slice(0, size + 1)) list?.forEach(i => grid.add(i))
    return grid
  }

  /**
   * Finds what stands around a piece and keeps so much free that it may cover a half of it: what was there when the
   * level began.
   *
   * @param corners of the piece in the world
   * @param longest its longest side
   */
  findAround(corners: Float64Array, longest: number, into: Neighbours): void {
    into.clear()
    const { box, near, sorted, radius } = this
    for (let axis = 0; axis < 3; axis++) {
      const a = corners[axis]!
      const b = corners[axis + 3]!
      const c = corners[axis + 6]!
      box[axis] = Math.min(a, b, c)
      box[axis + 3] = Math.max(a, b, c)
    }
    for (let size = 0; size < near.length; size++) {
      const free = Math.max(radius, this.leastRoom + this.roomUpTo[size]!)
      if (free > longest * COVERS && near[size]) (sorted[size] ??= this.sort(size)).findAround(box, free, into)
    }
  }

  private sort(size: number): SortedGrid {
    const { min, max, places, reaches } = this
    return new SortedGrid(this.cellOf(size), min, max, this.near[size]!, places, this.options.roomOf ? reaches : null)
  }

  /** Takes those that stand already, before all others. */
  begunWith({ count, places, facets, names, births }: Cast): void {
    for (let i = 0; i < count; i++) {
      const facet = facets[i]!
      const [first, second] = [names[i * 2]!, names[i * 2 + 1]!]
      this.take(
        places[i * 3]!,
        places[i * 3 + 1]!,
        places[i * 3 + 2]!,
        facet,
        first,
        second,
        births[i]!,
        this.options.roomOf?.(facet, first, second) ?? 0,
      )
    }
  }

  offer(from: Candidates, i: number, birth: number): void {
    const x = from.places[i * 3]!
    const y = from.places[i * 3 + 1]!
    const z = from.places[i * 3 + 2]!
    const facet = from.facets[i]!
    const first = from.names[i * 2]!
    const second = from.names[i * 2 + 1]!
    const { accept, roomOf } = this.options
    const room = roomOf ? roomOf(facet, first, second) : 0
    if (this.isTooNear(x, y, z, room)) return
    if (accept) {
      this.chance.begin(first, second, 0)
      if (!accept(x, y, z, facet, this.chance)) return
    }
    this.take(x, y, z, facet, first, second, birth, room)
  }

  private take(
    x: number,
    y: number,
    z: number,
    facet: number,
    first: number,
    second: number,
    birth: number,
    room: number,
  ): void {
    const { counts } = this.options
    const n = this.count++
    if (counts === null || counts(x, y, z)) this.counted++
    if (n >= this.births.length) this.grow()
    this.places[n * 3] = x
    this.places[n * 3 + 1] = y
    this.places[n * 3 + 2] = z
    this.facetOf[n] = facet
    this.names[n * 2] = first
    this.names[n * 2 + 1] = second
    this.births[n] = birth
    this.reaches[n] = room
    if (this.keepsOff) this.keepNear(n)
  }

  progress(level: number, last: number): number {
    return Math.min(level / Math.max(last, 1), 1)
  }

  finish(full: boolean): Cast {
    const { count } = this
    return {
      count,
      places: this.places.slice(0, count * 3),
      facets: this.facetOf.slice(0, count),
      names: this.names.slice(0, count * 2),
      births: this.births.slice(0, count),
      full,
    }
  }

  private grow(): void {
    this.places = longer(this.places, Float64Array)
    this.facetOf = longer(this.facetOf, Int32Array)
    this.names = longer(this.names, Int32Array)
    this.births = longer(this.births, Float64Array)
    this.reaches = longer(this.reaches, Float64Array)
    for (const grid of [...this.grids, ...this.upTo]) grid?.usePlaces(this.places)
  }
}
