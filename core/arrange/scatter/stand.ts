import { cosSin, minusLog } from '../../math/exact'
import { Quick } from '../../math/random'
import type { Vec3 } from '../../math/vectors'
import type { Cast } from './casting'
import type { Facets } from './facets'
import type { Ingredient, ScatterRule } from './rule'
import { FIRST_INGREDIENT } from './rule'
import type { SourceAt } from './site'

/**
 * What chances of a copy are for. Each is drawn by itself, so that one number changed leaves all others as they were.
 */
export const USES = { accept: 0, size: 1, sizes: 2, turn: 3, tilt: 4, height: 5, limits: 6, source: 7 } as const

/** A source with what its scatter says about it. */
type Mixed = Ingredient & { number: number; reach: number }

/** Which source comes where, how large, and how it stands: from the names of a candidate alone. */
export class Mix {
  readonly sources: readonly Mixed[]
  private readonly random = new Quick()
  private readonly found: [number, number, number] = [0, 0, 0]

  constructor({ mix }: Pick<ScatterRule, 'mix'>, sources: readonly SourceAt[]) {
    const known = new Map(mix.map(ingredient => [ingredient.source, ingredient]))
    this.sources = sources
      .map(
        ({ id, reach }, number): Mixed => ({
          ...(known.get(id) ?? { ...FIRST_INGREDIENT, source: id, stream: 500_000 + number }),
          number,
          reach,
        }),
      )
      .filter(({ weight }) => weight > 0)
  }

  get hasSizes(): boolean {
    return this.sources.some(({ sizes }) => sizes !== undefined)
  }

  /** The least and the most room that a copy needs, in metres around it. */
  get rooms(): [number, number] {
    const all = this.sources.flatMap(source =>
      [0, 1].map(end =>
        roomAt(source, source.size[end]!, source.sizes ? Math.max(source.sizes[0][end]!, source.sizes[2][end]!) : 1),
      ),
    )
    return all.length === 0 ? [0, 0] : [Math.min(...all), Math.max(...all)]
  }

  /**
   * The place in `sources` of the one that a candidate gets: the one whose waiting time, by its weight, ends first. So
   * a weight that is changed only takes from others for this source, or gives to others of this source.
   */
  choose(first: number, second: number): number {
    if (this.sources.length === 1) return 0
    let [best, least] = [0, Infinity]
    for (let i = 0; i < this.sources.length; i++) {
      const { stream, weight } = this.sources[i]!
      this.random.begin(first, second, USES.source + stream)
      const wait = minusLog((this.random.next() + 1) / 2 ** 32) / weight
      if (wait < least) {
        least = wait
        best = i
      }
    }
    return best
  }

  sizeOf(source: Mixed, first: number, second: number): number {
    return this.between(source.size, first, second, USES.size)
  }

  /** Factors along each axis besides. */
  sizesOf({ sizes }: Mixed, first: number, second: number): [number, number, number] {
    if (!sizes) return [1, 1, 1]
    this.random.begin(first, second, USES.sizes)
    return sizes.map(([least, most]) => least + (most - least) * this.random.share()) as [number, number, number]
  }

  roomOf(first: number, second: number): number {
    const source = this.sources[this.choose(first, second)]!
    const sizes = this.sizesOf(source, first, second)
    return roomAt(source, this.sizeOf(source, first, second), Math.max(sizes[0], sizes[2]))
  }

  between([least, most]: readonly [number, number], first: number, second: number, use: number): number {
    this.random.begin(first, second, use)
    return least + (most - least) * this.random.share()
  }

  /**
   * A direction in the plane, as cosine and sine, all alike likely: a point in a circle, without any angle.
   *
   * @returns an array that the next call uses again
   */
  direction(first: number, second: number, use: number): readonly [cos: number, sin: number, share: number] {
    this.random.begin(first, second, use)
    for (;;) {
      const x = this.random.share() * 2 - 1
      const y = this.random.share() * 2 - 1
      const square = x * x + y * y
      if (square > 1 || square < 1e-6) continue
      const length = Math.sqrt(square)
      const { found } = this
      found[0] = x / length
      found[1] = y / length
      found[2] = length
      return found
    }
  }

  turnOf({ turn, step }: Mixed, first: number, second: number): readonly [cos: number, sin: number, ...number[]] {
    if (turn === 'free') return this.direction(first, second, USES.turn)
    if (turn === 'kept') return [1, 0]
    this.random.begin(first, second, USES.turn)
    return cosSin(Math.floor(this.random.share() * Math.max(Math.round(360 / step), 1)) * step)
  }
}

const roomAt = ({ room, reach }: Mixed, size: number, wide: number) => (room ?? reach) * size * wide

/** Directions of X and Z. */
type Headings = readonly [readonly number[], readonly number[]]

/** How each candidate would stand. */
export type Standing = {
  /** By the order in the mix. */
  chosen: Int32Array
  /** In the world, sixteen numbers each. */
  matrices: Float64Array
  /** Factors along each axis besides; null if all are 1. */
  sizes: Float64Array | null
}

/**
 * Works out which source each candidate gets and how it stands.
 *
 * @param own X and Z of the arrangement, for those whose turn is kept
 */
export function stand(
  { count, places, facets: on, names }: Cast,
  { normals, surface, frames }: Facets,
  mix: Mix,
  own: Headings,
): Standing {
  const chosen = new Int32Array(count)
  const matrices = new Float64Array(count * 16)
  const sizes = mix.hasSizes ? new Float64Array(count * 3) : null
  const headings = frames.map(({ rigid }) => headingsOf(rigid))
  const to: Vec3 = [0, 0, 0]
  for (let i = 0; i < count; i++) {
    const first = names[i * 2]!
    const second = names[i * 2 + 1]!
    const facet = on[i]!
    chosen[i] = mix.choose(first, second)
    const source = mix.sources[chosen[i]!]!
    const axes = source.turn === 'kept' ? own : headings[surface[facet]!]!
    let ux = normals[facet * 3]! * source.lean
    let uy = 1 - source.lean + normals[facet * 3 + 1]! * source.lean
    let uz = normals[facet * 3 + 2]! * source.lean
    const length = Math.sqrt(ux * ux + uy * uy + uz * uz)
    // Upside down and half leaning: neither way is up.
    ux = length < 1e-9 ? 0 : ux / length
    uy = length < 1e-9 ? 1 : uy / length
    uz = length < 1e-9 ? 0 : uz / length
    if (source.tilt > 0) [ux, uy, uz] = tilted(mix, source, first, second, ux, uy, uz)
    // The heading at right angles to that, turned about it.
    const heading = across(axes[0], ux, uy, uz, to) ?? across(axes[1], ux, uy, uz, to)!
    const hx = heading[0]
    const hy = heading[1]
    const hz = heading[2]
    const kx = hy * uz - hz * uy
    const ky = hz * ux - hx * uz
    const kz = hx * uy - hy * ux
    const turn = mix.turnOf(source, first, second)
    const cos = turn[0]
    const sin = turn[1]
    const size = mix.sizeOf(source, first, second)
    const rise = mix.between(source.height, first, second, USES.height)
    const at = i * 16
    matrices[at] = (hx * cos - kx * sin) * size
    matrices[at + 1] = (hy * cos - ky * sin) * size
    matrices[at + 2] = (hz * cos - kz * sin) * size
    matrices[at + 4] = ux * size
    matrices[at + 5] = uy * size
    matrices[at + 6] = uz * size
    matrices[at + 8] = (hx * sin + kx * cos) * size
    matrices[at + 9] = (hy * sin + ky * cos) * size
    matrices[at + 10] = (hz * sin + kz * cos) * size
    matrices[at + 12] = places[i * 3]! + ux * rise
    matrices[at + 13] = places[i * 3 + 1]! + uy * rise
    matrices[at + 14] = places[i * 3 + 2]! + uz * rise
    matrices[at + 15] = 1
    if (sizes) sizes.set(mix.sizesOf(source, first, second), i * 3)
  }
  return { chosen, matrices, sizes }
}

const headingsOf = (e: ArrayLike<number>): Headings => [
  [e[0]!, e[1]!, e[2]!],
  [e[8]!, e[9]!, e[10]!],
]

/** What of an axis is at right angles to an upright, of unit length; null if that is next to nothing. */
function across(axis: readonly number[], ux: number, uy: number, uz: number, to: Vec3): Vec3 | null {
  const x = axis[0]!
  const y = axis[1]!
  const z = axis[2]!
  const along = x * ux + y * uy + z * uz
  const a = x - along * ux
  const b = y - along * uy
  const c = z - along * uz
  const length = Math.sqrt(a * a + b * b + c * c)
  if (length < 1e-3) return null
  to[0] = a / length
  to[1] = b / length
  to[2] = c / length
  return to
}

/** An upright leant to any side, no farther than the source may: all directions within that cone about alike likely. */
function tilted(mix: Mix, { tilt }: Mixed, first: number, second: number, ux: number, uy: number, uz: number): Vec3 {
  const [cos, sin, far] = mix.direction(first, second, USES.tilt)
  const [ax, ay, az] = across([1, 0, 0], ux, uy, uz, [0, 0, 0]) ?? across([0, 0, 1], ux, uy, uz, [0, 0, 0])!
  const [bx, by, bz] = [uy * az - uz * ay, uz * ax - ux * az, ux * ay - uy * ax]
  const [along, aside] = cosSin(tilt * far)
  const side = (a: number, b: number) => (a * cos + b * sin) * aside
  return [ux * along + side(ax, bx), uy * along + side(ay, by), uz * along + side(az, bz)]
}
