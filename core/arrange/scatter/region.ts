import type { Matrix4 } from 'three'
import { Vector3 } from 'three'
import type { Vec3 } from '../../math/vectors'
import { planeOf } from './crossing'
import type { PlanBox } from './facets'
import type { Area } from './rule'

/** One drawn area in the plane it is looked at in: straight down, or along its own normal. */
type Flat = {
  hole: boolean
  isBand: boolean
  half: number
  u: Vec3
  v: Vec3
  n: Vec3
  xs: Float64Array
  ys: Float64Array
  box: readonly [number, number, number, number]
  /** Along the normal. */
  level: number
  depth: number
}

/** Where the areas of a scatter are, in the world. */
export class Region {
  private readonly flats: readonly Flat[]
  private readonly hasPositive: boolean

  /** @param areas each with the way from its points to the world */
  constructor(
    areas: readonly { area: Area; toWorld: Matrix4 }[],
    private readonly fromAbove: boolean,
  ) {
    this.flats = areas.map(({ area, toWorld }) => flatten(area, toWorld, fromAbove))
    this.hasPositive = this.flats.some(({ hole }) => !hole)
  }

  get isEmpty(): boolean {
    return this.flats.length === 0
  }

  /** Whether anything is taken in, instead of only taken away. */
  get isBounded(): boolean {
    return this.hasPositive
  }

  /**
   * Metres from the edge: inside above 0, outside below; without any area, or deep inside of what only has holes,
   * without end.
   */
  inwards(x: number, y: number, z: number): number {
    let most = this.hasPositive ? -Infinity : Infinity
    let least = Infinity
    for (const flat of this.flats) {
      const d = signed(flat, x, y, z, this.fromAbove)
      if (flat.hole) least = Math.min(least, -d)
      else most = Math.max(most, d)
    }
    return Math.min(most, least)
  }

  /** The box around all that is taken in, wider by a margin; null without any. */
  plan(margin: number): PlanBox | null {
    if (!this.hasPositive) return null
    const box = { minX: Infinity, minZ: Infinity, maxX: -Infinity, maxZ: -Infinity }
    for (const { hole, u, v, n, level, xs, ys, half } of this.flats) {
      if (hole) continue
      for (let i = 0; i < xs.length; i++) {
        const [x, z] = [0, 2].map(axis => u[axis]! * xs[i]! + v[axis]! * ys[i]! + n[axis]! * level) as [number, number]
        const wide = half + margin
        box.minX = Math.min(box.minX, x - wide)
        box.maxX = Math.max(box.maxX, x + wide)
        box.minZ = Math.min(box.minZ, z - wide)
        box.maxZ = Math.max(box.maxZ, z + wide)
      }
    }
    return box
  }
}

function flatten({ type, hole, points, width }: Area, toWorld: Matrix4, fromAbove: boolean): Flat {
  const world = points.map(point => new Vector3(...point).applyMatrix4(toWorld).toArray())
  const { u, v, n } = fromAbove ? { u: [1, 0, 0] as Vec3, v: [0, 0, 1] as Vec3, n: [0, 1, 0] as Vec3 } : planeOf(world)
  const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
  const [xs, ys] = [Float64Array.from(world, point => dot(point, u)), Float64Array.from(world, point => dot(point, v))]
  const box = [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)] as const
  const level = world.reduce((sum, point) => sum + dot(point, n), 0) / world.length
  // An area on a wall does not reach through to the far side of the house.
  const depth = Math.max(box[2] - box[0], box[3] - box[1]) / 2
  return { hole, isBand: type === 'band', half: type === 'band' ? width / 2 : 0, u, v, n, xs, ys, box, level, depth }
}

function signed(
  { isBand, half, u, v, n, xs, ys, box, level, depth }: Flat,
  x: number,
  y: number,
  z: number,
  fromAbove: boolean,
): number {
  const p = u[0] * x + u[1] * y + u[2] * z
  const q = v[0] * x + v[1] * y + v[2] * z
  const away = fromAbove ? -Infinity : Math.abs(n[0] * x + n[1] * y + n[2] * z - level) - depth
  // Far outside the box around it is near enough: how far does not matter there.
  const far = Math.max(box[0] - half - p, p - box[2] - half, box[1] - half - q, q - box[3] - half)
  const reach = Math.max(box[2] - box[0], box[3] - box[1]) + half
  if (far > reach) return -far
  let inside = false
  let least = Infinity
  const count = xs.length
  for (let i = isBand ? 1 : 0, k = isBand ? 0 : count - 1; i < count; k = i++) {
    const ax = xs[k]!
    const ay = ys[k]!
    const bx = xs[i]! - ax
    const by = ys[i]! - ay
    const cx = p - ax
    const cy = q - ay
    const length = bx * bx + by * by
    const t = length === 0 ? 0 : Math.min(Math.max((cx * bx + cy * by) / length, 0), 1)
    const dx = cx - t * bx
    const dy = cy - t * by
    const square = dx * dx + dy * dy
    if (square < least) least = square
    if (!isBand && ys[i]! > q !== ay > q && p < ((xs[i]! - ax) * (q - ay)) / (ys[i]! - ay) + ax) inside = !inside
  }
  const distance = Math.sqrt(least)
  const along = isBand ? half - distance : inside ? distance : -distance
  return Math.min(along, -away)
}
