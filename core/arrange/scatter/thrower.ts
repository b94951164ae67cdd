import { expMinus } from '../../math/exact'
import { Quick } from '../../math/random'
import type { Facets } from './facets'
import { birthAt, LAST_LEVEL, levelOf, levelOfFacet, numberOfBirth } from './levels'
import { Candidates, SIDES } from './pieces'

/** Bits of 32 that a name leaves out. */
const NAME_BITS = 9
/** Facets between two looks at the clock. */
const SLICE = 1 << 14

/** Throws candidates into pieces of facets. Its numbers are those of the name that `random` was begun with last. */
export class Thrower {
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

  /** Writes where the corners of a piece are in the world. */
  cornersOf(corners: Float64Array, at: number, facet: number, out: Float64Array): void {
    const e = this.facets.frames[this.facets.surface[facet]!]!.rigid
    for (let k = 0; k < SIDES; k += 3) {
      const x = corners[at + k]!
      const y = corners[at + k + 1]!
      const z = corners[at + k + 2]!
      out[k] = e[0]! * x + e[4]! * y + e[8]! * z + e[12]!
      out[k + 1] = e[1]! * x + e[5]! * y + e[9]! * z + e[13]!
      out[k + 2] = e[2]! * x + e[6]! * y + e[10]! * z + e[14]!
    }
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
export type Beginning = { early: (Candidates | null)[]; entering: (number[] | null)[] }

/** Facets begin at the level whose pieces are about as large; all before it at once, of which they have few. */
export function* begin(facets: Facets, thrower: Thrower): Generator<number, Beginning> {
  const { random, point } = thrower
  const early = Array.from({ length: LAST_LEVEL + 1 }, () => null as Candidates | null)
  const entering = Array.from({ length: LAST_LEVEL + 2 }, () => null as number[] | null)
  for (let f = 0; f < facets.count; f++) {
    const area = facets.areas[f]!
    const enters = levelOfFacet(area)
    ;(entering[enters + 1] ??= []).push(f)
    if (enters < 0) continue
    random.begin(facets.names[f * 2]!, facets.names[f * 2 + 1]!, LAST_LEVEL + 1)
    const upTo = birthAt(enters + 1)
    for (let n = thrower.numberIn(area * upTo); n > 0; n--) {
      const birth = random.share() * upTo
      thrower.throwInto(facets.corners, f * SIDES, f)
      const [first, second] = [thrower.name(), thrower.name()]
      const level = levelOf(birth)
      ;(early[level] ??= new Candidates()).push(
        numberOfBirth(birth, level),
        point[0]!,
        point[1]!,
        point[2]!,
        f,
        first,
        second,
      )
    }
    if (f % SLICE === SLICE - 1) yield 0
  }
  return { early, entering }
}
