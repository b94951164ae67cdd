import type { Curve } from 'three'
import { CatmullRomCurve3, Vector3 } from 'three'
import type { Vec3 } from '../level/schema'

/** Samples of each stretch between two points of a smooth path. */
const SAMPLES = 64
/** As a share of the whole path, for the direction at a point. */
const NEARBY = 1e-5

export type PathShape = { points: readonly Vec3[], smooth: boolean, closed: boolean }

/**
 * A path through points, by the way along it in metres. Smooth is a centripetal Catmull-Rom curve, which passes through its
 * points without loops (Barry and Goldman 1988; Yuksel and others 2011).
 */
export class PathCurve {
  readonly length: number
  private readonly curve: Curve<Vector3> | null
  private readonly round: boolean
  private readonly corners: Vector3[]
  /** The way from the start to each sample, and the sample. */
  private readonly ways: number[] = [0]
  private readonly samples: Vector3[]

  constructor({ points, smooth, closed }: PathShape) {
    this.corners = points.map(point => new Vector3(...point)).filter((point, i, all) => i === 0 || point.distanceTo(all[i - 1]!) > 1e-6)
    if (closed && this.corners.length > 2 && this.corners[0]!.distanceTo(this.corners.at(-1)!) < 1e-6) this.corners.pop()
    const round = this.round = closed && this.corners.length > 2
    this.curve = smooth && this.corners.length > 2 ? new CatmullRomCurve3(this.corners, round, 'centripetal') : null
    if (this.curve) {
      const stretches = round ? this.corners.length : this.corners.length - 1
      this.samples = this.curve.getPoints(stretches * SAMPLES)
    }
    else {
      this.samples = round ? [...this.corners, this.corners[0]!] : [...this.corners]
    }
    for (let i = 1; i < this.samples.length; i++) this.ways.push(this.ways[i - 1]! + this.samples[i]!.distanceTo(this.samples[i - 1]!))
    this.length = this.ways.at(-1)!
  }

  /** The point after so many metres; straight on beyond the ends. */
  at(way: number, target = new Vector3()): Vector3 {
    if (this.samples.length < 2) return target.copy(this.samples[0]!)
    const i = this.stretchAt(way)
    const [from, to] = [this.ways[i]!, this.ways[i + 1]!]
    const t = to > from ? (way - from) / (to - from) : 0
    if (!this.curve || t < 0 || t > 1) return target.lerpVectors(this.samples[i]!, this.samples[i + 1]!, t)
    return this.curve.getPoint((i + t) / (this.samples.length - 1), target)
  }

  /** The direction of travel there, of unit length; +X for a path that goes nowhere. */
  directionAt(way: number, target = new Vector3()): Vector3 {
    if (this.length < 1e-9) return target.set(1, 0, 0)
    const i = this.stretchAt(way)
    if (!this.curve) return target.subVectors(this.samples[i + 1]!, this.samples[i]!).normalize()
    const [from, to] = [this.ways[i]!, this.ways[i + 1]!]
    const t = (i + (way - from) / (to - from)) / (this.samples.length - 1)
    // A closed curve goes on beyond its ends, where the packaged tangent would stop half-way.
    const [before, after] = this.round ? [t - NEARBY, t + NEARBY] : [Math.max(t - NEARBY, 0), Math.min(t + NEARBY, 1)]
    return this.curve.getPoint(after, target).sub(this.curve.getPoint(before)).normalize()
  }

  /** The ways at which the points lie. */
  wayOfPoints(): number[] {
    const step = this.curve ? SAMPLES : 1
    return this.corners.map((_, i) => this.ways[i * step]!)
  }

  /** Where the path is next as far from its point at `from` as `chord`; beyond the end straight on. */
  afterChord(from: number, chord: number): number {
    const start = this.at(from)
    let i = this.stretchAt(from)
    while (i + 1 < this.samples.length - 1 && this.samples[i + 1]!.distanceTo(start) < chord) i++
    let [low, high] = [Math.max(this.ways[i]!, from), Math.max(this.ways[i + 1]!, from + chord * 2)]
    if (i + 1 < this.samples.length - 1) high = this.ways[i + 1]!
    const point = new Vector3()
    for (let k = 0; k < 60; k++) {
      const middle = (low + high) / 2
      if (this.at(middle, point).distanceTo(start) < chord) low = middle
      else high = middle
    }
    return (low + high) / 2
  }

  private stretchAt(way: number): number {
    let [low, high] = [0, this.ways.length - 2]
    while (low < high) {
      const middle = Math.ceil((low + high) / 2)
      if (this.ways[middle]! <= way) low = middle
      else high = middle - 1
    }
    return low
  }
}
