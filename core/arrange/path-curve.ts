import { CatmullRomCurve3, Vector3 } from 'three'
import { rootBetween } from '../geometry/root'
import type { Vec3 } from '../level/schema'

/** Samples of each stretch between two points of a smooth path. */
const SAMPLES = 64

export type PathShape = { points: readonly Vec3[], smooth: boolean, closed: boolean }

/**
 * A path through points, by the way along it in metres. Smooth is a centripetal Catmull-Rom curve, which passes through its
 * points without loops (Barry and Goldman 1988; Yuksel and others 2011).
 */
export class PathCurve {
  readonly length: number
  /** The error that rounding alone makes of distances between its points, in metres: of the largest number in them a few units in the last place. */
  readonly rounding: number
  /** Of each stretch of a smooth path, c0 to c3 of c0 + c1·t + c2·t² + c3·t³ for x, then y, then z, with t from 0 to 1; null for a straight path. */
  private readonly cubics: Float64Array | null
  private readonly corners: Vector3[]
  /** The way from the start to each sample, and the sample. */
  private readonly ways: Float64Array
  private readonly samples: Vector3[]
  /** Where the last question was answered; the next one is mostly near it. */
  private last = 0

  constructor({ points, smooth, closed }: PathShape) {
    this.corners = points.map(point => new Vector3(...point)).filter((point, i, all) => i === 0 || point.distanceTo(all[i - 1]!) > 1e-6)
    if (closed && this.corners.length > 2 && this.corners[0]!.distanceTo(this.corners.at(-1)!) < 1e-6) this.corners.pop()
    this.rounding = this.corners.reduce((most, { x, y, z }) => Math.max(most, Math.abs(x), Math.abs(y), Math.abs(z)), 0) * 8 * Number.EPSILON
    const round = closed && this.corners.length > 2
    const stretches = round ? this.corners.length : this.corners.length - 1
    const curve = smooth && this.corners.length > 2 ? new CatmullRomCurve3(this.corners, round, 'centripetal') : null
    this.cubics = curve && cubicsOf(curve, stretches)
    this.samples = curve ? curve.getPoints(stretches * SAMPLES) : round ? [...this.corners, this.corners[0]!] : [...this.corners]
    this.ways = new Float64Array(this.samples.length)
    for (let i = 1; i < this.samples.length; i++) this.ways[i] = this.ways[i - 1]! + this.samples[i]!.distanceTo(this.samples[i - 1]!)
    this.length = this.ways.at(-1)!
  }

  /** The point after so many metres; straight on beyond the ends. */
  at(way: number, target = new Vector3()): Vector3 {
    if (this.samples.length < 2) return target.copy(this.samples[0]!)
    const i = this.stretchAt(way)
    const t = this.shareOf(i, way)
    if (!this.cubics || t < 0 || t > 1) return target.lerpVectors(this.samples[i]!, this.samples[i + 1]!, t)
    const { cubics: c } = this
    const from = Math.floor(i / SAMPLES) * 12
    const u = (i % SAMPLES + t) / SAMPLES
    return target.set(
      c[from]! + u * (c[from + 1]! + u * (c[from + 2]! + u * c[from + 3]!)),
      c[from + 4]! + u * (c[from + 5]! + u * (c[from + 6]! + u * c[from + 7]!)),
      c[from + 8]! + u * (c[from + 9]! + u * (c[from + 10]! + u * c[from + 11]!)),
    )
  }

  /** The direction of travel there, of unit length; +X for a path that goes nowhere. */
  directionAt(way: number, target = new Vector3()): Vector3 {
    if (this.length < 1e-9) return target.set(1, 0, 0)
    const i = this.stretchAt(way)
    if (!this.cubics) return target.subVectors(this.samples[i + 1]!, this.samples[i]!).normalize()
    const { cubics: c } = this
    const from = Math.floor(i / SAMPLES) * 12
    const u = (i % SAMPLES + Math.min(Math.max(this.shareOf(i, way), 0), 1)) / SAMPLES
    return target.set(
      c[from + 1]! + u * (2 * c[from + 2]! + u * 3 * c[from + 3]!),
      c[from + 5]! + u * (2 * c[from + 6]! + u * 3 * c[from + 7]!),
      c[from + 9]! + u * (2 * c[from + 10]! + u * 3 * c[from + 11]!),
    ).normalize()
  }

  /** The ways at which the points lie. */
  wayOfPoints(): number[] {
    const step = this.cubics ? SAMPLES : 1
    return this.corners.map((_, i) => this.ways[i * step]!)
  }

  /** Where the path is next as far from its point at `from` as `chord`; beyond the end straight on. */
  afterChord(from: number, chord: number): number {
    this.at(from, chordStart)
    const missing = (way: number) => this.at(way, chordEnd).distanceTo(chordStart) - chord
    const last = this.samples.length - 1
    let i = this.stretchAt(from)
    while (i + 1 < last && this.samples[i + 1]!.distanceTo(chordStart) < chord) i++
    const low = Math.max(this.ways[i]!, from)
    const high = i + 1 < last ? this.ways[i + 1]! : Math.max(this.length, low) + chord * 2
    // Nearer than rounding allows it would look in vain, a hundred times for each chord.
    return rootBetween(missing, low, high, Math.max(chord * 1e-13, this.rounding))
  }

  private shareOf(i: number, way: number): number {
    const [from, to] = [this.ways[i]!, this.ways[i + 1]!]
    return to > from ? (way - from) / (to - from) : 0
  }

  private stretchAt(way: number): number {
    const { ways, last } = this
    const end = ways.length - 2
    for (let i = last; i <= Math.min(last + 1, end); i++) if (ways[i]! <= way && way < ways[i + 1]!) return this.last = i
    let [low, high] = [0, end]
    while (low < high) {
      const middle = Math.ceil((low + high) / 2)
      if (ways[middle]! <= way) low = middle
      else high = middle - 1
    }
    return this.last = low
  }
}

const [chordStart, chordEnd] = [new Vector3(), new Vector3()]

/**
 * The packaged curve is a cubic on each stretch but works that out anew for every point it is asked for; four points of it give the
 * cubic's numbers once and for all.
 */
function cubicsOf(curve: CatmullRomCurve3, stretches: number): Float64Array {
  const numbers = new Float64Array(stretches * 12)
  for (let i = 0; i < stretches; i++) {
    const points = [0, 1 / 3, 2 / 3, 1].map(t => curve.getPoint(Math.min((i + t) / stretches, 1)).toArray())
    for (let axis = 0; axis < 3; axis++) {
      const [p0, p1, p2, p3] = points.map(point => point[axis]!) as [number, number, number, number]
      numbers.set([p0, (-11 * p0 + 18 * p1 - 9 * p2 + 2 * p3) / 2, (18 * p0 - 45 * p1 + 36 * p2 - 9 * p3) / 2, (-9 * p0 + 27 * p1 - 27 * p2 + 9 * p3) / 2], i * 12 + axis * 4)
    }
  }
  return numbers
}
