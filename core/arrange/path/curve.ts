import { CatmullRomCurve3, Vector3 } from 'three'
import { rootBetween } from '../../math/root'
import type { Vec3 } from '../../math/vectors'
import type { Cubics } from './arc-length'
import { ArcLength } from './arc-length'

export type PathShape = { points: readonly Vec3[]; smooth: boolean; closed: boolean }

/** Points nearer to each other than this are one, in metres. */
const SAME = 1e-6
/** What is not longer than this goes nowhere, in metres. */
export const STILL = 1e-9

/**
 * A path through points, by the way along it in metres. Smooth is a centripetal Catmull-Rom curve, which passes through
 * its points without loops (Barry and Goldman 1988; Yuksel and others 2011). A path of two points is straight, and has
 * two ends.
 */
export class PathCurve {
  readonly length: number
  /**
   * The error that rounding alone makes of distances between its points, in metres: of the largest number in them a few
   * units in the last place.
   */
  readonly rounding: number
  /** Whether it ends where it begins. */
  readonly isRound: boolean
  /** Of each of the points given, how many that are apart from each other come before it. */
  private readonly before: readonly number[]
  /** Of each stretch of a smooth path; null for a straight path. */
  private readonly cubics: Cubics | null
  private readonly corners: Vector3[]
  /** The way from the start to each place where a piece of the path begins, and to its end; and the place itself. */
  private readonly ways: Float64Array
  private readonly places: Vector3[]
  /** Of each piece of a smooth path, its stretch, and u as a polynomial of the share of its way. */
  private readonly stretchOf: Int32Array
  private readonly inverse: Float64Array
  /** The pieces that begin at the points. */
  private readonly starts: number[]
  /** The first and the last piece that go anywhere: in plan the path may begin or end by climbing on the spot. */
  private readonly outer: readonly [number, number]
  /** Where the last question was answered; the next one is mostly near it. */
  private last = 0

  /** @param isFlat ways and chords are measured in plan, as if there were no heights */
  constructor(
    { points, smooth, closed }: PathShape,
    readonly isFlat = false,
  ) {
    const given = points.map(point => new Vector3(...point))
    this.corners = given.filter((point, i, all) => i === 0 || point.distanceTo(all[i - 1]!) > SAME)
    if (closed && this.corners.length > 2 && this.corners[0]!.distanceTo(this.corners.at(-1)!) < SAME)
      this.corners.pop()
    this.isRound = closed && this.corners.length > 2
    let point = -1
    this.before = given.map((place, i) => (i === 0 || place.distanceTo(given[i - 1]!) > SAME ? ++point : point))
    this.rounding =
      this.corners.reduce((most, { x, y, z }) => Math.max(most, Math.abs(x), Math.abs(y), Math.abs(z)), 0)
      * 8
      * Number.EPSILON
    const stretches = this.isRound ? this.corners.length : this.corners.length - 1
    const curve =
      smooth && this.corners.length > 2 ? new CatmullRomCurve3(this.corners, this.isRound, 'centripetal') : null
    this.cubics = curve && cubicsOf(curve, stretches)
    this.places = [this.corners[0]!]
    this.starts = []
    const [ways, stretchOf, inverse]: number[][] = [[0], [], []]
    for (let stretch = 0; stretch < stretches; stretch++) {
      this.starts.push(stretchOf!.length)
      const [from, end] = [ways!.at(-1)!, this.corners[(stretch + 1) % this.corners.length]!]
      if (this.cubics) {
        const arc = new ArcLength(this.cubics, stretch * 12, isFlat)
        for (let i = 1; i < arc.us.length; i++) {
          ways!.push(from + arc.ways[i]!)
          stretchOf!.push(stretch)
          this.places.push(i + 1 < arc.us.length ? cubicAt(this.cubics, stretch * 12, arc.us[i]!, new Vector3()) : end)
        }
        for (const number of arc.inverse) inverse!.push(number)
      } else {
        ways!.push(from + this.between(this.corners[stretch]!, end))
        stretchOf!.push(stretch)
        this.places.push(end)
      }
    }
    this.starts.push(stretchOf!.length)
    this.ways = Float64Array.from(ways!)
    this.stretchOf = Int32Array.from(stretchOf!)
    this.inverse = Float64Array.from(inverse!)
    this.length = this.ways.at(-1)!
    const goes = (_: number, i: number) => i + 1 < this.ways.length && this.ways[i + 1]! - this.ways[i]! > STILL
    this.outer = [Math.max(this.ways.findIndex(goes), 0), Math.max(this.ways.findLastIndex(goes), 0)]
  }

  /** The point after so many metres; straight on beyond the ends. */
  at(way: number, target = new Vector3()): Vector3 {
    if (this.places.length < 2) return target.copy(this.places[0]!)
    const i = this.pieceAt(way)
    const t = this.shareOf(i, way)
    if (!this.cubics) return target.lerpVectors(this.places[i]!, this.places[i + 1]!, t)
    if (t >= 0 && t <= 1) return cubicAt(this.cubics, this.stretchOf[i]! * 12, this.uAt(i, t), target)
    const end = t < 0 ? 0 : this.length
    this.directionAt(end, target)
    const across = this.isFlat ? Math.hypot(target.x, target.z) : 1
    return target
      .multiplyScalar((way - end) / (across || 1))
      .add(this.places[t < 0 ? this.outer[0] : this.outer[1] + 1]!)
  }

  /** The direction of travel there, of unit length; +X for a path that goes nowhere. */
  directionAt(way: number, target = new Vector3()): Vector3 {
    if (this.length < STILL) return target.set(1, 0, 0)
    const i = this.pieceAt(way)
    if (!this.cubics) return target.subVectors(this.places[i + 1]!, this.places[i]!).normalize()
    const { cubics: c } = this
    const from = this.stretchOf[i]! * 12
    const u = this.uAt(i, Math.min(Math.max(this.shareOf(i, way), 0), 1))
    slopeAt(c, from, u, target)
    // Where it turns on the spot it stands still; its piece says where it goes.
    return target.lengthSq() > 1e-18
      ? target.normalize()
      : target.subVectors(this.places[i + 1]!, this.places[i]!).normalize()
  }

  /** Both at once, which looks for the piece only once; for very many ways. */
  frameAt(way: number, place: Vector3, direction: Vector3): void {
    const i = this.cubics && this.length >= STILL ? this.pieceAt(way) : -1
    const t = i < 0 ? -1 : this.shareOf(i, way)
    if (t < 0 || t > 1) {
      this.directionAt(way, direction)
      this.at(way, place)
      return
    }
    const [c, from, u] = [this.cubics!, this.stretchOf[i]! * 12, this.uAt(i, t)]
    cubicAt(c, from, u, place)
    slopeAt(c, from, u, direction)
    if (direction.lengthSq() > 1e-18) direction.normalize()
    else this.directionAt(way, direction)
  }

  /** The ways at which the points lie that are apart from each other. */
  wayOfPoints(): number[] {
    return this.corners.map((_, i) => this.ways[this.starts[i] ?? 0]!)
  }

  /** The way at which each of the points given lies, also those that are where another is. */
  wayOfGiven(): number[] {
    const ways = this.wayOfPoints()
    return this.before.map(point => ways[point] ?? this.length)
  }

  /** Where the path is next as far from its point at `from` as `chord`; beyond the end straight on. */
  afterChord(from: number, chord: number): number {
    this.at(from, chordStart)
    const missing = (way: number) => this.between(this.at(way, chordEnd), chordStart) - chord
    const last = this.outer[1] + 1
    let i = this.pieceAt(from)
    while (i + 1 < last && this.between(this.places[i + 1]!, chordStart) < chord) i++
    const low = Math.max(this.ways[i]!, from)
    const high = i + 1 < last ? this.ways[i + 1]! : Math.max(this.length, low) + chord * 2
    // Nearer than rounding allows it would look in vain, a hundred times for each chord.
    return rootBetween(missing, low, high, Math.max(chord * 1e-13, this.rounding))
  }

  /** How far two places are from each other, as ways are measured. */
  between(a: Vector3, b: Vector3): number {
    return this.isFlat ? Math.hypot(a.x - b.x, a.z - b.z) : a.distanceTo(b)
  }

  private shareOf(i: number, way: number): number {
    const [from, to] = [this.ways[i]!, this.ways[i + 1]!]
    return to > from ? (way - from) / (to - from) : 0
  }

  private uAt(piece: number, t: number): number {
    const { inverse: c } = this
    const i = piece * 6
    return c[i]! + t * (c[i + 1]! + t * (c[i + 2]! + t * (c[i + 3]! + t * (c[i + 4]! + t * c[i + 5]!))))
  }

  private pieceAt(way: number): number {
    const {
      ways,
      last,
      outer: [first, end],
    } = this
    for (let i = Math.max(last, first); i <= Math.min(last + 1, end); i++)
      if (ways[i]! <= way && way < ways[i + 1]!) return (this.last = i)
    let [low, high] = [first, end]
    while (low < high) {
      const middle = Math.ceil((low + high) / 2)
      if (ways[middle]! <= way) low = middle
      else high = middle - 1
    }
    return (this.last = low)
  }
}

const [chordStart, chordEnd] = [new Vector3(), new Vector3()]

/**
 * The packaged curve is a cubic on each stretch but works that out anew for every point it is asked for; four points of
 * it give the cubic's numbers once and for all.
 */
function cubicsOf(curve: CatmullRomCurve3, stretches: number): Cubics {
  const numbers = new Float64Array(stretches * 12)
  for (let i = 0; i < stretches; i++) {
    const points = [0, 1 / 3, 2 / 3, 1].map(t => curve.getPoint(Math.min((i + t) / stretches, 1)).toArray())
    for (let axis = 0; axis < 3; axis++) {
      const [p0, p1, p2, p3] = points.map(point => point[axis]!) as [number, number, number, number]
      numbers.set(
        [
          p0,
          (-11 * p0 + 18 * p1 - 9 * p2 + 2 * p3) / 2,
          (18 * p0 - 45 * p1 + 36 * p2 - 9 * p3) / 2,
          (-9 * p0 + 27 * p1 - 27 * p2 + 9 * p3) / 2,
        ],
        i * 12 + axis * 4,
      )
    }
  }
  return numbers
}

function slopeAt(c: Cubics, from: number, u: number, target: Vector3): Vector3 {
  return target.set(
    c[from + 1]! + u * (2 * c[from + 2]! + u * 3 * c[from + 3]!),
    c[from + 5]! + u * (2 * c[from + 6]! + u * 3 * c[from + 7]!),
    c[from + 9]! + u * (2 * c[from + 10]! + u * 3 * c[from + 11]!),
  )
}

function cubicAt(c: Cubics, from: number, u: number, target: Vector3): Vector3 {
  return target.set(
    c[from]! + u * (c[from + 1]! + u * (c[from + 2]! + u * c[from + 3]!)),
    c[from + 4]! + u * (c[from + 5]! + u * (c[from + 6]! + u * c[from + 7]!)),
    c[from + 8]! + u * (c[from + 9]! + u * (c[from + 10]! + u * c[from + 11]!)),
  )
}
