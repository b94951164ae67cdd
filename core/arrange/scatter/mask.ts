import type { Stroke } from './rule'

/** The share of a stroke's radius within which it is at full strength; from there it fades out. */
const CORE = 0.5
/** Directions in which a softening stroke looks around, and how far, in its radii. */
const AROUND = [
  [1, 0, 0],
  [-1, 0, 0],
  [0, 1, 0],
  [0, -1, 0],
  [0, 0, 1],
  [0, 0, -1],
] as const
const LOOK = 0.7

type Laid = Stroke & { box: readonly [number, number, number, number, number, number]; softens: boolean }

/** What was painted on one surface, in its own axes. */
export class Mask {
  private readonly strokes: readonly Laid[]

  /** @param begins how much is let through where nothing is painted */
  constructor(
    strokes: readonly Stroke[],
    private readonly begins: 0 | 1,
  ) {
    this.strokes = strokes.map(stroke => {
      const reach = (axis: 0 | 1 | 2, sign: 1 | -1) =>
        stroke.points.reduce((most, point) => Math.max(most, sign * point[axis]), -Infinity) + stroke.radius
      return {
        ...stroke,
        softens: stroke.does === 'soften',
        box: [-reach(0, -1), -reach(1, -1), -reach(2, -1), reach(0, 1), reach(1, 1), reach(2, 1)],
      }
    })
  }

  /** From 0, painted out, to 1. */
  at(x: number, y: number, z: number): number {
    return this.upTo(this.strokes.length, x, y, z, true)
  }

  private upTo(count: number, x: number, y: number, z: number, soft: boolean): number {
    let value: number = this.begins
    for (let i = 0; i < count; i++) {
      const stroke = this.strokes[i]!
      const { box, does, strength } = stroke
      if (x < box[0] || y < box[1] || z < box[2] || x > box[3] || y > box[4] || z > box[5]) continue
      const weight = strength * fading(distanceTo(stroke, x, y, z) / stroke.radius)
      if (weight === 0) continue
      if (does === 'add') value += (1 - value) * weight
      else if (does === 'remove') value -= value * weight
      else if (soft) value += (this.meanAround(i, x, y, z, stroke.radius * LOOK) - value) * weight
    }
    return value
  }

  /** What earlier strokes left around a place. What they softened themselves counts as it was before. */
  private meanAround(count: number, x: number, y: number, z: number, far: number): number {
    let sum = 0
    for (const [a, b, c] of AROUND) sum += this.upTo(count, x + a * far, y + b * far, z + c * far, false)
    return sum / AROUND.length
  }
}

function fading(share: number): number {
  if (share <= CORE) return 1
  if (share >= 1) return 0
  const t = (1 - share) / (1 - CORE)
  return t * t * (3 - 2 * t)
}

function distanceTo({ points }: Stroke, x: number, y: number, z: number): number {
  let least = Infinity
  for (let i = points.length === 1 ? 0 : 1; i < points.length; i++) {
    const [ax, ay, az] = points[Math.max(i - 1, 0)]!
    const [bx, by, bz] = points[i]!
    const [ux, uy, uz] = [bx - ax, by - ay, bz - az]
    const length = ux * ux + uy * uy + uz * uz
    const t = length === 0 ? 0 : Math.min(Math.max(((x - ax) * ux + (y - ay) * uy + (z - az) * uz) / length, 0), 1)
    const [dx, dy, dz] = [x - ax - t * ux, y - ay - t * uy, z - az - t * uz]
    least = Math.min(least, dx * dx + dy * dy + dz * dz)
  }
  return Math.sqrt(least)
}
