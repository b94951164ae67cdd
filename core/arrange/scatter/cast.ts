import { expMinus } from '../../math/exact'
import { Quick } from '../../math/random'
import type { Facets, PlanBox } from './facets'
import { NearGrid } from './near-grid'

// Where copies may come to stand. Over each surface lies one endless random sequence of candidates, evenly by area: a
// Poisson process in area and "birth", of one candidate per square metre and unit of birth, made by the seed and the
// place on the surface alone. A scatter takes those born before some time, in the order of their births, each unless it
// is too near to one taken before (random sequential addition; with a distance that shrinks as births go on, the
// evenest spread). So a later time only adds, an earlier one only takes away, and nothing depends on what else is asked
// for.
//
// The process is made in levels, each with twice the births of the one before, over pieces of the triangles halved each
// time. Pieces that a copy keeps free wholly are not looked at again, which is what makes it quick where little room is
// left (after the subdivision of Ebeida et al. 2012, "A simple algorithm for maximal Poisson-disk sampling in high
// dimensions").

/** Candidates that were taken. */
export type Cast = {
  count: number
  /** In the world, three numbers each. */
  places: Float64Array
  /** The facet each is on. */
  facets: Int32Array
  /** Two numbers below 2^23 each, which together with the surface name it. */
  names: Int32Array
  /** In the order taken; candidates per square metre up to it. */
  births: Float64Array
  /** Whether no room is left for any more. */
  full: boolean
}

export type CastOptions = {
  /** Births before this are taken. */
  until: number
  /** Metres between any two. */
  apart: number
  /** Whether the distance is larger at first and shrinks down to `apart`. */
  even: boolean
  /** How far a candidate keeps others away by itself, by its names; null if none does. */
  roomOf: ((facet: number, name: number, other: number) => number) | null
  /** The least and the most of that. */
  rooms: readonly [number, number]
  /** Whether a candidate may be taken at all. */
  accept: ((x: number, y: number, z: number, facet: number, chance: Quick) => boolean) | null
  /** How a ball of the world lies to where copies are wanted: farther out than a margin, wholly inside, or neither. */
  reach: ((x: number, y: number, z: number, radius: number, margin: number) => 'out' | 'across' | 'in') | null
  /** The box in plan around where copies are wanted, wider by a margin; null where they are wanted everywhere. */
  around: ((margin: number) => PlanBox | null) | null
  /** Those that count; all if null. */
  counts: ((x: number, y: number, z: number) => boolean) | null
  /** No more of those are taken. */
  most: number
  /** Metres within which anything else that `accept` goes by changes. */
  keptOff: number
  /** Those that stand already, over the same facets. */
  standing?: Cast
}

/** Square metres of a piece of the first level. */
const FIRST_AREA = 2 ** 20
/** The last level: pieces of a thousandth of a square millimetre. */
const LAST_LEVEL = 50
/** Of the even spread: the square of the distance at a level, in pieces of it. */
const EVEN = 5
/**
 * Pieces smaller than this share of the least distance are given up: what fits nowhere else fits there only by chance.
 */
const SMALLEST = 1 / 40
/** The largest distance of the even spread, in metres: what comes before it is farther apart than that anyway. */
const WIDEST_EVEN = 400
/**
 * How far outside of where copies are wanted candidates count, in distances in force: what stands outside keeps its
 * neighbours inside off.
 */
export const MARGIN = 4
/** Larger pieces than this share of the distance are hardly ever covered by one copy. */
const COVERABLE = 0.7
/** Pieces and candidates between two looks at the clock. */
const SLICE = 1 << 14

const SIDES = 9
/** Octaves of room that are told apart. */
const SIZES = 12
/** Halvings down to the first level: of the largest triangle there may be. */
const DEEPEST = 64

/** Pieces of facets, growing. */
class Pieces {
  count = 0
  corners = new Float64Array(256 * SIDES)
  areas = new Float64Array(256)
  names = new Uint32Array(512)
  facets = new Int32Array(256)
  inside = new Uint8Array(256)

  push(
    from: Float64Array,
    at: number,
    area: number,
    first: number,
    second: number,
    facet: number,
    inside: number,
  ): void {
    const n = this.count++
    if (n >= this.areas.length) this.grow()
    const to = n * SIDES
    for (let k = 0; k < SIDES; k++) this.corners[to + k] = from[at + k]!
    this.areas[n] = area
    this.names[n * 2] = first
    this.names[n * 2 + 1] = second
    this.facets[n] = facet
    this.inside[n] = inside
  }

  private grow(): void {
    this.corners = longer(this.corners, Float64Array)
    this.areas = longer(this.areas, Float64Array)
    this.names = longer(this.names, Uint32Array)
    this.facets = longer(this.facets, Int32Array)
    this.inside = longer(this.inside, Uint8Array)
  }
}

function longer<T extends Float64Array | Uint32Array | Int32Array | Uint8Array>(
  array: T,
  type: new (length: number) => T,
): T {
  const more = new type(array.length * 2)
  more.set(array)
  return more
}

/** Candidates of one level, growing. */
class Candidates {
  count = 0
  /** Its birth within the level in 30 bits. */
  births = new Float64Array(1024)
  places = new Float64Array(3072)
  facets = new Int32Array(1024)
  names = new Int32Array(2048)

  push(birth: number, x: number, y: number, z: number, facet: number, first: number, second: number): void {
    const n = this.count++
    if (n >= this.births.length) {
      this.births = longer(this.births, Float64Array)
      this.places = longer(this.places, Float64Array)
      this.facets = longer(this.facets, Int32Array)
      this.names = longer(this.names, Int32Array)
    }
    this.births[n] = birth
    this.places[n * 3] = x
    this.places[n * 3 + 1] = y
    this.places[n * 3 + 2] = z
    this.facets[n] = facet
    this.names[n * 2] = first
    this.names[n * 2 + 1] = second
  }

  /** Their numbers in the order of their births. */
  order(): Float64Array {
    const keys = new Float64Array(this.count)
    // Numbers sort several times quicker than by a comparison; 30 bits of birth leave 23 for which it is.
    for (let i = 0; i < this.count; i++) keys[i] = this.births[i]! * ORDER + i
    keys.sort()
    for (let i = 0; i < this.count; i++) keys[i]! %= ORDER
    return keys
  }
}

const ORDER = 2 ** 23
const BIRTHS = 2 ** 30
/** Pieces in one level, of which the next one has twice as many at most: some hundred megabytes. */
const MOST_PIECES = 2 ** 22
const NAME_BITS = 9

const areaAt = (level: number) => FIRST_AREA / 2 ** level
/** Births before a level. */
const birthAt = (level: number) => (2 ** level - 1) / FIRST_AREA

/** Metres between any two of the even spread, at a level whose pieces are so large. */
export const evenDistance = (area: number, apart: number) =>
  Math.max(apart, Math.min(Math.sqrt(EVEN * area), WIDEST_EVEN))

/** The level that a birth is in. */
function levelOf(birth: number): number {
  let level = 0
  while (level < LAST_LEVEL && birthAt(level + 1) <= birth) level++
  return level
}

/** Throws candidates into pieces of facets. Its numbers are those of the name that `random` was begun with last. */
class Thrower {
  readonly random = new Quick()
  /** Where the last candidate lies, or what was located last, in the world. */
  readonly point = new Float64Array(3)
  private meanBefore = 0
  private end = 1

  constructor(private readonly facets: Facets) {}

  /** Finds the point of a piece with given shares of its corners. */
  locate(corners: Float64Array, at: number, facet: number, u: number, v: number, w: number): void {
    const e = this.facets.frames[this.facets.surface[facet]!]!.rigid
    const x = corners[at]! * u + corners[at + 3]! * v + corners[at + 6]! * w
    const y = corners[at + 1]! * u + corners[at + 4]! * v + corners[at + 7]! * w
    const z = corners[at + 2]! * u + corners[at + 5]! * v + corners[at + 8]! * w
    this.point[0] = e[0]! * x + e[4]! * y + e[8]! * z + e[12]!
    this.point[1] = e[1]! * x + e[5]! * y + e[9]! * z + e[13]!
    this.point[2] = e[2]! * x + e[6]! * y + e[10]! * z + e[14]!
  }

  /** Throws a candidate into a piece, anywhere in it alike. */
  throwInto(corners: Float64Array, at: number, facet: number): void {
    const a = this.random.share()
    const b = this.random.share()
    const beyond = a + b > 1
    const u = beyond ? 1 - a : a
    const v = beyond ? 1 - b : b
    this.locate(corners, at, facet, 1 - u - v, u, v)
  }

  /** How many candidates there are in a piece, of which there are so many in the mean (Poisson). */
  numberIn(mean: number): number {
    let number = 0
    let left = this.random.share()
    // Halves of one facet have the same area.
    if (mean !== this.meanBefore) this.end = expMinus((this.meanBefore = mean))
    while (left > this.end) {
      number++
      left *= this.random.share()
    }
    return number
  }

  name(): number {
    return this.random.next() >>> NAME_BITS
  }
}

/** What candidates there are before the level at which their facet begins, and which facets begin at each level. */
type Beginning = { early: (Candidates | null)[]; entering: (number[] | null)[] }

/** Facets begin at the level whose pieces are about as large; all before it at once, of which they have few. */
function* begin(facets: Facets, thrower: Thrower): Generator<number, Beginning> {
  const { random, point } = thrower
  const early = Array.from({ length: LAST_LEVEL + 1 }, () => null as Candidates | null)
  const entering = Array.from({ length: LAST_LEVEL + 2 }, () => null as number[] | null)
  for (let f = 0; f < facets.count; f++) {
    const area = facets.areas[f]!
    const enters = area >= FIRST_AREA ? -1 : Math.min(Math.floor(Math.log2(FIRST_AREA / area)), LAST_LEVEL)
    ;(entering[enters + 1] ??= []).push(f)
    if (enters < 0) continue
    random.begin(facets.names[f * 2]!, facets.names[f * 2 + 1]!, LAST_LEVEL + 1)
    const upTo = birthAt(enters + 1)
    for (let n = thrower.numberIn(area * upTo); n > 0; n--) {
      const birth = random.share() * upTo
      thrower.throwInto(facets.corners, f * SIDES, f)
      const [first, second] = [thrower.name(), thrower.name()]
      const level = levelOf(birth)
      const within = Math.floor((birth - birthAt(level)) * areaAt(level) * BIRTHS)
      ;(early[level] ??= new Candidates()).push(within, point[0]!, point[1]!, point[2]!, f, first, second)
    }
    if (f % SLICE === SLICE - 1) yield 0
  }
  return { early, entering }
}

/**
 * One level of pieces: how large they are, how far its candidates keep apart, and how far beyond the areas it is
 * looked.
 */
type Level = { level: number; area: number; radius: number; widest: number; margin: number }

/** Goes through the pieces of a level, and halves those that are too large for it. */
class Visit {
  /** Pieces that are gone into again at the next level. */
  kept = new Pieces()
  candidates = new Candidates()
  private level: Level = { level: 0, area: 0, radius: 0, widest: 0, margin: 0 }
  /** Halves of halves of a facet that is larger than the pieces of its first level. */
  private readonly halves = new Float64Array(DEEPEST * 2 * SIDES)
  private depth = 0

  /** @param given what any copy keeps free at the least once it is taken: what is smaller is settled for good */
  constructor(
    private readonly thrower: Thrower,
    private readonly taken: Taken,
    private readonly options: CastOptions,
    private readonly given: number,
  ) {}

  begin(level: Level, candidates: Candidates, kept: Pieces): void {
    this.level = level
    this.candidates = candidates
    this.kept = kept
    kept.count = 0
  }

  /** @param inside 1 if the piece is known to lie within the areas */
  piece(
    corners: Float64Array,
    at: number,
    ownArea: number,
    first: number,
    second: number,
    facet: number,
    inside: number,
  ): void {
    const { thrower, taken, options } = this
    const { area, radius, widest, margin } = this.level
    if (ownArea > area) return this.halve(corners, at, ownArea, first, second, facet, inside)
    thrower.locate(corners, at, facet, 1 / 3, 1 / 3, 1 / 3)
    const { point } = thrower
    const size = circumference(corners, at)
    if (options.reach && inside === 0) {
      const where = options.reach(point[0]!, point[1]!, point[2]!, size, margin)
      if (where === 'out') return
      if (where === 'in') inside = 1
    }
    if (size < widest * COVERABLE && taken.covers(point, size, radius)) {
      // With a distance that will shrink the piece may come free again.
      const mayComeFree = radius > options.apart && !taken.covers(point, size, options.apart)
      if (mayComeFree) this.kept.push(corners, at, ownArea, first, second, facet, inside)
      return
    }
    if (size < this.given) return
    thrower.random.begin(first, second, this.level.level + 1)
    for (let n = thrower.numberIn(ownArea / area); n > 0; n--) {
      const birth = thrower.random.next() >>> 2
      thrower.throwInto(corners, at, facet)
      const name = thrower.name()
      this.candidates.push(birth, point[0]!, point[1]!, point[2]!, facet, name, thrower.name())
    }
    this.kept.push(corners, at, ownArea, first, second, facet, inside)
  }

  private halve(
    corners: Float64Array,
    at: number,
    ownArea: number,
    first: number,
    second: number,
    facet: number,
    inside: number,
  ): void {
    const to = this.depth++ * 2 * SIDES
    const { halves } = this
    bisect(corners, at, halves, to)
    this.piece(halves, to, ownArea / 2, step(first), step(second ^ 0x5bd1e995), facet, inside)
    this.piece(halves, to + SIDES, ownArea / 2, step(first ^ 0x2c1b3c6d), step(second ^ 0x297a2d39), facet, inside)
    this.depth--
  }
}

/** Casts candidates over facets. Yields now and then how far it is, from 0 to 1. */
export function* cast(facets: Facets, options: CastOptions): Generator<number, Cast> {
  const { until, apart, even, roomOf, rooms, most } = options
  const taken = new Taken(facets, options)
  if (options.standing) taken.begunWith(options.standing)
  const thrower = new Thrower(facets)
  const { early, entering } = yield* begin(facets, thrower)
  const lastLevel = Math.min(levelOf(until), LAST_LEVEL)
  // The least that any copy keeps free once it is taken: what is wholly within it is settled for good.
  const given = Math.max(apart, roomOf ? 2 * rooms[0] : 0) * SMALLEST
  const visit = new Visit(thrower, taken, options, given)
  let [pieces, spare] = [new Pieces(), new Pieces()]
  let full = false
  let steps = 0
  // Of more candidates at a time than can be told apart no further ones are looked for.
  for (let level = 0; level <= lastLevel && taken.counted < most && pieces.count < MOST_PIECES; level++) {
    const area = areaAt(level)
    const radius = even ? evenDistance(area, apart) : apart
    const widest = Math.max(radius, roomOf ? rooms[0] + rooms[1] : 0)
    const margin = MARGIN * Math.max(radius, roomOf ? 2 * rooms[1] : 0, options.keptOff)
    taken.begin(radius, margin)
    visit.begin({ level, area, radius, widest, margin }, early[level] ?? new Candidates(), spare)
    for (let i = 0; i < pieces.count; i++) {
      visit.piece(
        pieces.corners,
        i * SIDES,
        pieces.areas[i]!,
        pieces.names[i * 2]!,
        pieces.names[i * 2 + 1]!,
        pieces.facets[i]!,
        pieces.inside[i]!,
      )
      if (++steps % SLICE === 0) yield taken.progress(level, lastLevel)
    }
    for (const f of entering[level] ?? [])
      visit.piece(facets.corners, f * SIDES, facets.areas[f]!, facets.names[f * 2]!, facets.names[f * 2 + 1]!, f, 0)
    ;[pieces, spare] = [visit.kept, pieces]
    const { candidates } = visit
    const before = birthAt(level)
    for (const i of candidates.order()) {
      const birth = before + candidates.births[i]! / BIRTHS / area
      if (birth >= until || taken.counted >= most) break
      taken.offer(candidates, i, birth)
      if (++steps % SLICE === 0) yield taken.progress(level, lastLevel)
    }
    if (given > 0 && pieces.count === 0 && level >= facetLevels(entering)) {
      full = true
      break
    }
  }
  return taken.finish(full)
}

/** The last level at which a facet still begins. */
function facetLevels(entering: readonly (number[] | null)[]): number {
  return entering.findLastIndex(list => list !== null)
}

const step = (name: number) => {
  let hash = Math.imul(name ^ (name >>> 15), 0x2c1b3c6d)
  hash = Math.imul(hash ^ (hash >>> 12), 0x297a2d39)
  return (hash ^ (hash >>> 15)) >>> 0
}

/** Writes both halves of a triangle that is cut from the middle of its longest side to the corner opposite. */
function bisect(corners: Float64Array, at: number, out: Float64Array, to: number): void {
  const ab = squareOf(corners, at, at + 3)
  const bc = squareOf(corners, at + 3, at + 6)
  const ca = squareOf(corners, at + 6, at)
  const a = ab >= bc && ab >= ca ? 0 : bc >= ca ? 3 : 6
  const b = (a + 3) % SIDES
  const c = (a + 6) % SIDES
  for (let k = 0; k < 3; k++) {
    const p = corners[at + a + k]!
    const q = corners[at + b + k]!
    const r = corners[at + c + k]!
    const middle = (p + q) / 2
    out[to + k] = p
    out[to + 3 + k] = out[to + SIDES + k] = middle
    out[to + SIDES + 3 + k] = q
    out[to + 6 + k] = out[to + SIDES + 6 + k] = r
  }
}

function squareOf(corners: Float64Array, p: number, q: number): number {
  const x = corners[p]! - corners[q]!
  const y = corners[p + 1]! - corners[q + 1]!
  const z = corners[p + 2]! - corners[q + 2]!
  return x * x + y * y + z * z
}

/** How far the corners of a triangle are from the middle of them, at most. */
function circumference(corners: Float64Array, at: number): number {
  const x = (corners[at]! + corners[at + 3]! + corners[at + 6]!) / 3
  const y = (corners[at + 1]! + corners[at + 4]! + corners[at + 7]!) / 3
  const z = (corners[at + 2]! + corners[at + 5]! + corners[at + 8]!) / 3
  let most = 0
  for (let k = at; k < at + SIDES; k += 3) {
    const a = corners[k]! - x
    const b = corners[k + 1]! - y
    const c = corners[k + 2]! - z
    const square = a * a + b * b + c * c
    if (square > most) most = square
  }
  return Math.sqrt(most)
}

/** The candidates that were taken, in order. */
class Taken {
  count = 0
  counted = 0
  private places = new Float64Array(3072)
  private facetOf = new Int32Array(1024)
  private names = new Int32Array(2048)
  private births = new Float64Array(1024)
  private reaches = new Float64Array(1024)
  /** Those that need so much room, by its octave: in cells as large as that. */
  private readonly grids: NearGrid[] = []
  /** Those that need no more than that, in cells of the same size; made once a candidate of it is looked at. */
  private readonly upTo: NearGrid[] = []
  /** All that are in them. */
  private readonly near: number[] = []
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
    if (radius === this.radius) return
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
    const { min, max } = this
    const [x, z] = [this.places[i * 3]!, this.places[i * 3 + 2]!]
    if (x < min[0] || x > max[0] || z < min[2] || z > max[2]) return
    const size = this.sizeOf(this.reaches[i]!)
    this.gridOf(this.grids, size).add(i)
    this.upTo.forEach((grid, other) => other >= size && grid.add(i))
    this.near.push(i)
  }

  /** Which octave a room is in. */
  private sizeOf(room: number): number {
    const { roomOf, rooms } = this.options
    return roomOf ? Math.max(0, Math.ceil(Math.log2(Math.max(room, 1e-9) / Math.max(rooms[1], 1e-9)) + SIZES)) : 0
  }

  /** The most room in an octave. */
  private reachOf(size: number): number {
    return this.options.roomOf ? this.options.rooms[1] * 2 ** (size - SIZES) : 0
  }

  private gridOf(grids: NearGrid[], size: number): NearGrid {
    return (grids[size] ??= new NearGrid(
      Math.max(this.radius, 2 * this.reachOf(size)),
      this.min,
      this.max,
      this.places,
    ))
  }

  /** Whether a candidate is too near to one that was taken. */
  private isTooNear(x: number, y: number, z: number, room: number): boolean {
    if (!this.keepsOff) return false
    const reaches = this.options.roomOf ? this.reaches : null
    const size = this.sizeOf(room)
    const isNear = (grid: NearGrid, reach: number) =>
      grid.nearer(x, y, z, this.radius, Math.max(this.radius, reaches ? room + reach : 0), room, reaches) >= 0
    // What needs as much room or less is looked for in the candidate's own cells, of which there are few around it.
    if (!this.upTo[size]) {
      const grid = this.gridOf(this.upTo, size)
      for (const i of this.near) if (this.sizeOf(this.reaches[i]!) <= size) grid.add(i)
    }
    if (isNear(this.upTo[size]!, this.reachOf(size))) return true
    for (let larger = size + 1; larger < this.grids.length; larger++)
      if (this.grids[larger] && isNear(this.grids[larger]!, this.reachOf(larger))) return true
    return false
  }

  /**
   * Whether a ball lies wholly within what one copy keeps free of all others, also of those that need the least room.
   */
  covers(at: Float64Array, size: number, radius: number): boolean {
    const { roomOf, rooms } = this.options
    for (let each = 0; each < this.grids.length; each++)
      if (
        this.grids[each]?.hasAround(
          at[0]!,
          at[1]!,
          at[2]!,
          size,
          radius,
          roomOf ? rooms[0] : 0,
          this.reachOf(each),
          roomOf ? this.reaches : null,
        )
      )
        return true
    return false
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
