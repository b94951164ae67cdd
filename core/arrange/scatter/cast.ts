import type { Cast, CastOptions } from './casting'
import type { Facets } from './facets'
import { areaAt, birthAt, birthWithin, evenDistance, LAST_LEVEL, levelOf, numberOfBirth } from './levels'
import { leaveRoom, SIDES, takeRoom } from './pieces'
import { Taken } from './taken'
import { begin, Thrower } from './thrower'
import { Visit } from './visit'

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

/**
 * Pieces smaller than this share of the least distance are given up: what fits nowhere else fits there only by chance.
 */
const SMALLEST = 1 / 40
/**
 * How far outside of where copies are wanted candidates count, in distances in force: what stands outside keeps its
 * neighbours inside off.
 */
export const MARGIN = 4
/** Pieces and candidates between two looks at the clock. */
const SLICE = 1 << 14
/** Pieces in one level, of which the next one has twice as many at most: some hundred megabytes. */
const MOST_PIECES = 2 ** 22

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
  const space = takeRoom()
  const { candidates } = space
  let [pieces, spare] = space.pieces
  pieces.begin(true)
  const visit = new Visit(thrower, taken, options, given, candidates, spare)
  let full = false
  let steps = 0
  // Of more candidates at a time than can be told apart no further ones are looked for.
  for (let level = 0; level <= lastLevel && taken.counted < most && pieces.count < MOST_PIECES; level++) {
    const area = areaAt(level)
    const radius = even ? evenDistance(area, apart) : apart
    const margin = MARGIN * Math.max(radius, roomOf ? 2 * rooms[1] : 0, options.keptOff)
    taken.begin(radius, margin)
    const before = birthAt(level)
    const isLast = level === lastLevel
    visit.begin({ level, area, radius, margin, isLast, until: numberOfBirth(until, level) + 2 }, early[level]!, spare)
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
    ;[pieces, spare] = [spare, pieces]
    for (const i of candidates.order()) {
      const birth = before + birthWithin(candidates.births[i]!, area)
      if (birth >= until || taken.counted >= most) break
      taken.offer(candidates, i, birth)
      if (++steps % SLICE === 0) yield taken.progress(level, lastLevel)
    }
    if (given > 0 && pieces.count === 0 && level >= facetLevels(entering)) {
      full = true
      break
    }
  }
  leaveRoom(space)
  return taken.finish(full)
}

/** The last level at which a facet still begins. */
function facetLevels(entering: readonly (number[] | null)[]): number {
  return entering.findLastIndex(list => list !== null)
}
