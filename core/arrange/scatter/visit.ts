import type { CastOptions } from './casting'
import { Neighbours } from './neighbours'
import type { Candidates, Pieces } from './pieces'
import { bisect, circumference, longestSide, SIDES, squareOfSide } from './pieces'
import type { Taken } from './taken'
import type { Thrower } from './thrower'

/**
 * One level of pieces: how large they are, how far its candidates keep apart, how far beyond the areas it is looked,
 * and the number of birth from which on candidates are not wanted any more.
 */
export type Level = { level: number; area: number; radius: number; margin: number; until: number; isLast: boolean }

/** Halvings down to the first level: of the largest triangle there may be. */
const DEEPEST = 64
/**
 * The most area of a triangle all of whose corners are no farther than 1 from the middle of them, and a little more:
 * that of an equilateral one is 3√3/4.
 */
const LARGEST = 1.3

/** Goes through the pieces of a level, and halves those that are too large for it. */
export class Visit {
  private level: Level = { level: 0, area: 0, radius: 0, margin: 0, until: 0, isLast: false }
  /** Halves of halves of a facet that is larger than the pieces of its first level. */
  private readonly halves = new Float64Array(DEEPEST * 2 * SIDES)
  private depth = 0
  /** What stands around the piece that is gone into. */
  private readonly around = new Neighbours()
  /** That piece in the world, and its halves. */
  private readonly world = new Float64Array(SIDES)
  private readonly worldHalves = new Float64Array(2 * SIDES)

  /** @param given what any copy keeps free at the least once it is taken: what is smaller is settled for good */
  constructor(
    private readonly thrower: Thrower,
    private readonly taken: Taken,
    private readonly options: CastOptions,
    private readonly given: number,
    readonly candidates: Candidates,
    /** Pieces that are gone into again at the next level. */
    private kept: Pieces,
  ) {}

  /** @param early what is there before the pieces are gone through */
  begin(level: Level, early: Candidates | null, kept: Pieces): void {
    this.level = level
    this.candidates.beginWith(early)
    this.kept = kept
    kept.begin(!level.isLast)
    this.around.begin(level.radius, this.options.apart, this.options.roomOf ? this.options.rooms[0] : 0)
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
    const { area } = this.level
    const { world, halves, worldHalves } = this
    const side = longestSide(corners, at)
    this.thrower.cornersOf(corners, at, facet, world)
    this.taken.findAround(world, Math.sqrt(squareOfSide(world, side)), this.around)
    if (this.isCovered(world, 0)) {
      // What is covered now is not halved before it comes free again.
      if (this.mayComeFree(world, 0)) this.kept.push(corners, at, ownArea, first, second, facet, inside)
      return
    }
    if (ownArea <= area) return this.look(corners, at, ownArea, first, second, facet, inside)
    const to = this.depth++ * 2 * SIDES
    bisect(corners, at, side, halves, to)
    const half = ownArea / 2
    const first1 = step(first)
    const second1 = step(second ^ 0x5bd1e995)
    const first2 = step(first ^ 0x2c1b3c6d)
    const second2 = step(second ^ 0x297a2d39)
    if (half <= area) {
      // Both halves have the same around them.
      bisect(world, 0, side, worldHalves, 0)
      this.half(0, halves, to, half, first1, second1, facet, inside)
      this.half(SIDES, halves, to + SIDES, half, first2, second2, facet, inside)
    } else {
      this.piece(halves, to, half, first1, second1, facet, inside)
      this.piece(halves, to + SIDES, half, first2, second2, facet, inside)
    }
    this.depth--
  }

  /** Looks at a half of a piece, which lies so in the world, unless it is covered. */
  private half(
    worldAt: number,
    corners: Float64Array,
    at: number,
    ownArea: number,
    first: number,
    second: number,
    facet: number,
    inside: number,
  ): void {
    if (!this.isCovered(this.worldHalves, worldAt)) this.look(corners, at, ownArea, first, second, facet, inside)
    else if (this.mayComeFree(this.worldHalves, worldAt))
      this.kept.push(corners, at, ownArea, first, second, facet, inside)
  }

  private isCovered(world: Float64Array, at: number): boolean {
    return this.around.cover(world, at, 'now')
  }

  /** Whether a piece that is covered may not be once the distance has shrunk. */
  private mayComeFree(world: Float64Array, at: number): boolean {
    return this.level.radius > this.options.apart && !this.around.cover(world, at, 'in the end')
  }

  /** Looks at a piece that is as large as those of the level, and is not covered: throws its candidates. */
  private look(
    corners: Float64Array,
    at: number,
    ownArea: number,
    first: number,
    second: number,
    facet: number,
    inside: number,
  ): void {
    const { thrower, options, around } = this
    const { level, area, margin, until } = this.level
    const { point } = thrower
    if (options.reach && inside === 0) {
      const size = circumference(corners, at)
      thrower.locate(corners, at, facet, 1 / 3, 1 / 3, 1 / 3)
      const where = options.reach(point[0]!, point[1]!, point[2]!, size, margin)
      if (where === 'out') return
      if (where === 'in') inside = 1
    }
    // Of so much area no corner is nearer to the middle.
    if (ownArea < LARGEST * this.given ** 2 && circumference(corners, at) < this.given) return
    thrower.random.begin(first, second, level + 1)
    for (let n = thrower.numberIn(ownArea / area); n > 0; n--) {
      const birth = thrower.random.next() >>> 2
      if (birth >= until) {
        thrower.random.skip(PLACE_AND_NAMES)
        continue
      }
      thrower.throwInto(corners, at, facet)
      if (around.hold(point[0]!, point[1]!, point[2]!)) thrower.random.skip(NAMES)
      else {
        const name = thrower.name()
        this.candidates.push(birth, point[0]!, point[1]!, point[2]!, facet, name, thrower.name())
      }
    }
    this.kept.push(corners, at, ownArea, first, second, facet, inside)
  }
}

/** Numbers by chance that the names of a candidate take, and those that its place takes as well. */
const [NAMES, PLACE_AND_NAMES] = [2, 4]

const step = (name: number) => {
  let hash = Math.imul(name ^ (name >>> 15), 0x2c1b3c6d)
  hash = Math.imul(hash ^ (hash >>> 12), 0x297a2d39)
  return (hash ^ (hash >>> 15)) >>> 0
}
