import type { Dealt } from './deal'
import { boundsOf, NearGrid } from './near-grid'

/**
 * A chart's bar: from one value to the next, and the copies in it, by their indices. `expected` is how many a free
 * scatter of that density has there.
 */
export type Bar = { from: number; to: number; copies: number[]; expected?: number }

/** What is drawn of a scatter: nearest neighbours and heights in metres, slopes in degrees. */
export type Figures = { neighbours: Bar[]; slopes: Bar[]; heights: Bar[] }

const BARS = 16

/** The figures of what was dealt. */
export function figuresOf({
  count,
  matrices,
  slopes,
  report: { area },
}: Pick<Dealt, 'count' | 'matrices' | 'slopes' | 'report'>): Figures {
  const places = new Float64Array(count * 3)
  for (let i = 0; i < count; i++) for (let k = 0; k < 3; k++) places[i * 3 + k] = matrices[i * 16 + 12 + k]!
  const nearest = nearestDistances(places, area)
  const density = area > 0 ? count / area : 0
  // Clark and Evans 1954: nearest neighbours at random are within r of each other with 1 - exp(-density · pi · r²).
  const within = (r: number) => 1 - Math.exp(-density * Math.PI * r * r)
  return {
    neighbours: bars(nearest, 0).map(bar => ({ ...bar, expected: count * (within(bar.to) - within(bar.from)) })),
    slopes: bars(slopes, 0, 5),
    heights: bars(Float64Array.from({ length: count }, (_, i) => places[i * 3 + 1]!)),
  }
}

/**
 * Metres from each place to the next one; without others, none.
 *
 * @param area about how much they are spread over, in square metres
 */
function nearestDistances(places: Float64Array, area: number): Float64Array {
  const count = places.length / 3
  if (count < 2) return new Float64Array(0)
  const { min, max } = boundsOf(places)
  const widest = Math.max(...max.map((value, axis) => value - min[axis]!), 1e-6)
  const cell = Math.max(Math.sqrt(area / count) || widest / 32, widest / 512)
  const grid = new NearGrid(cell, min, max, places)
  for (let i = 0; i < count; i++) grid.add(i)
  return Float64Array.from({ length: count }, (_, i) => {
    for (let far = cell; ; far *= 2) {
      const found = grid.nearest(places[i * 3]!, places[i * 3 + 1]!, places[i * 3 + 2]!, far, i)
      if (found <= far || far > 2 * widest) return found
    }
  })
}

function bars(values: Float64Array, least?: number, round?: number): Bar[] {
  if (values.length === 0) return []
  let [low, high] = [Infinity, -Infinity]
  for (const value of values) {
    low = Math.min(low, value)
    high = Math.max(high, value)
  }
  if (least !== undefined) low = least
  if (round) high = Math.max(Math.ceil(high / round) * round, round)
  const width = (high - low) / BARS || 1
  const found = Array.from(
    { length: BARS },
    (_, i): Bar => ({ from: low + i * width, to: low + (i + 1) * width, copies: [] }),
  )
  values.forEach((value, i) =>
    found[Math.min(Math.max(Math.floor((value - low) / width), 0), BARS - 1)]!.copies.push(i),
  )
  return found
}
