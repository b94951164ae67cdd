import type { Matrix4 } from 'three'
import { Box3, Line3, MathUtils, Vector3 } from 'three'
import { ExtendedTriangle } from 'three-mesh-bvh'
import type { Vec3 } from '../math/vectors'
import { isInside } from '../mesh/overlap'
import { Placed } from '../mesh/placed'
import type { LevelIndex } from '../scene/level-index'
import { dropBall } from './drop-ball'
import type { Triangles } from '../scene/triangles-in'
import { trianglesIn } from '../scene/triangles-in'

/** What a person who walks is like: metres, degrees, metres a second. */
export type WalkSettings = {
  eye: number
  radius: number
  /** The highest step that is taken. */
  step: number
  /** The steepest slope that is walked on. */
  slope: number
  speed: number
  runSpeed: number
  /** How high a jump goes. */
  jump: number
  /** The eye's height while crouching. */
  crouch: number
}

export const FIRST_WALK: WalkSettings = {
  eye: 1.7,
  radius: 0.3,
  step: 0.35,
  slope: 45,
  speed: 1.6,
  runSpeed: 5,
  jump: 0.5,
  crouch: 0.9,
}

/** The least and the most of each that can be chosen. */
export const WALK_BOUNDS: Record<keyof WalkSettings, readonly [least: number, most: number]> = {
  eye: [0.3, 3],
  radius: [0.1, 1],
  step: [0, 1],
  slope: [0, 89],
  speed: [0.1, 20],
  runSpeed: [0.1, 40],
  jump: [0, 5],
  crouch: [0.3, 3],
}

/** Where somebody wants to go, from -1 to 1 each way; `yaw` in radians, 0 looks along -Z. */
export type WalkInput = { forward: number; right: number; yaw: number; run: boolean; jump: boolean; crouch: boolean }

/** What stopped somebody: a thing or a copy, where, and how often. */
export type Stop = { thing: string; at: Vec3; count: number }

const GRAVITY = 9.81
/** From the eye to the top of the head, in metres. */
const BROW = 0.1
/** How far into a wall somebody may be, so that walking along it is no collision. */
const SKIN = 1e-4
/** Around the body triangles are held as far as this, and gathered anew when less than half of it is left. */
const HELD = 2
/** Metres between two points of the way that is kept, and the most of them. */
const [EVERY, MOST_WAY] = [0.25, 20_000]
/** The fastest that somebody falls, in metres a second. */
const FASTEST_FALL = 55

type Support = { feet: number; normal: Vector3; contact: Vector3; walkable: boolean; thing: string }
type Wall = { depth: number; normal: Vector3; thing: string; at: Vector3 }

/**
 * A person who walks through a level: an upright capsule against its triangles. The lower end rests on what is below as
 * a ball would, steps are taken whose tread can be walked on, slopes up to a limit; the rest of the body slides along
 * walls. Nothing is built at the start: only the triangles around are held.
 *
 * @example
 * import { Vector3 } from 'three'
 * import { bareView } from '../scene/level-view'
 * import { LevelIndex } from '../scene/level-index'
 * const nobody = new Walker(new LevelIndex(bareView(), () => undefined), FIRST_WALK, new Vector3(0, 1, 0))
 * nobody.eyePoint.y // 1 + FIRST_WALK.eye
 */
export class Walker {
  readonly way: Vec3[] = []
  readonly stops = new Map<string, Stop>()
  grounded = false
  /** Metres walked; falling is no walking. */
  walked = 0
  /** Of the floor below everything, where nobody falls any deeper. */
  readonly floor: number
  isOnFloor = false
  private hasStood = false
  /** How high that lies which one stands on; on a slope the feet, as the lowest of the body, are below it. */
  private ground = 0
  private readonly at = new Vector3()
  private speedUp = 0
  private eye: number
  private held: { box: Box3; triangles: Triangles } | null = null
  private readonly steepest: number
  /** What the beginning was looked for in. */
  private readonly closed = new Map<Matrix4, Placed>()
  private stoppedLast = ''

  /** @param foot where to begin */
  constructor(
    private readonly index: LevelIndex,
    readonly settings: WalkSettings,
    foot: Vector3,
  ) {
    const bounds = index.bounds()
    this.floor = bounds.isEmpty() ? 0 : bounds.min.y
    this.steepest = Math.cos(MathUtils.degToRad(settings.slope)) - 1e-6
    this.eye = settings.eye
    this.at.copy(foot)
    this.way.push(foot.toArray())
  }

  /** Where the feet are. */
  get feet(): Vector3 {
    return this.at.clone()
  }

  get eyePoint(): Vector3 {
    return this.at.clone().setY(this.at.y + this.eye)
  }

  private get height(): number {
    return Math.max(this.eye + BROW, 2 * this.settings.radius)
  }

  /** After somebody changed the level. */
  levelChanged(): void {
    this.held = null
  }

  /** Whether there is no room for the body here. */
  isInside(): boolean {
    const support = this.support(this.at.x, this.at.z, this.at.y + this.settings.step)
    return (
      this.wallAt(this.at.x, support && support.walkable ? Math.max(support.feet, this.at.y) : this.at.y, this.at.z)
        !== null || this.isEnclosed()
    )
  }

  /** Whether the middle of the body is within something closed, however far its faces are. */
  private isEnclosed(): boolean {
    const middle = this.at.clone().setY(this.at.y + this.height / 2)
    let found = false
    this.index.near(new Box3(middle, middle.clone()), ({ solid, matrix }) => {
      let placed = this.closed.get(matrix)
      if (!placed) this.closed.set(matrix, (placed = new Placed(solid, matrix)))
      found ||= isInside(middle, placed)
    })
    return found
  }

  /**
   * Puts somebody who begins within something beside it.
   *
   * @returns whether that was needed, and `ok` whether there was room
   */
  findRoom(): { moved: boolean; ok: boolean } {
    const from = this.at.clone()
    const found = this.lookForRoom()
    this.closed.clear()
    if (!found.ok) this.at.copy(from)
    return found
  }

  private lookForRoom(): { moved: boolean; ok: boolean } {
    if (!this.isInside()) return { moved: false, ok: true }
    const from = this.at.clone()
    for (const up of [0, 0.5, 1, 2, 4]) {
      for (let ring = 1; ring <= 24; ring++) {
        for (let side = 0; side < 12; side++) {
          const angle = (side / 12) * 2 * Math.PI
          this.at.set(from.x + Math.cos(angle) * ring * 0.25, from.y + up, from.z + Math.sin(angle) * ring * 0.25)
          if (!this.isInside()) {
            this.way.splice(0, this.way.length, this.at.toArray())
            return { moved: true, ok: true }
          }
        }
      }
    }
    return { moved: false, ok: false }
  }

  /** Moves on by some seconds; long ones are taken in small steps. */
  move(seconds: number, input: WalkInput): void {
    const { speed, runSpeed, radius } = this.settings
    this.standOrCrouch(input.crouch, seconds)
    const way = Math.hypot(input.forward, input.right)
    const pace =
      way === 0 ? 0 : (input.run && !input.crouch ? runSpeed : input.crouch ? speed / 2 : speed) * Math.min(way, 1)
    const direction =
      way === 0 ? new Vector3() : new Vector3(input.right, 0, -input.forward).normalize().applyAxisAngle(UP, input.yaw)
    if (input.jump && this.grounded) {
      this.speedUp = Math.sqrt(2 * GRAVITY * this.settings.jump)
      this.grounded = false
    }
    const fall = Math.abs(this.speedUp) + GRAVITY * seconds
    const before = this.at.clone()
    const stood = this.grounded
    const parts = Math.max(1, Math.ceil((Math.max(pace, this.grounded ? 0 : fall) * seconds) / (radius / 2)))
    for (let part = 0; part < parts; part++) {
      this.hold()
      if (pace > 0) this.walk((direction.x * pace * seconds) / parts, (direction.z * pace * seconds) / parts)
      this.fall(seconds / parts)
    }
    const [dx, dy, dz] = this.at.clone().sub(before).toArray()
    this.walked += stood && this.grounded ? Math.hypot(dx, dy, dz) : Math.hypot(dx, dz)
    this.keepWay()
    if (pace === 0) this.stoppedLast = ''
  }

  /** Of a fall only where it ends is on the way; of one at the beginning that is where the way begins. */
  private keepWay(): void {
    if (!this.grounded) return
    if (!this.hasStood) this.way[0] = this.at.toArray()
    this.hasStood = true
    const last = this.way.at(-1)!
    if (
      Math.hypot(this.at.x - last[0], this.at.y - last[1], this.at.z - last[2]) >= EVERY
      && this.way.length < MOST_WAY
    )
      this.way.push(this.at.toArray())
  }

  private standOrCrouch(crouch: boolean, seconds: number): void {
    const wanted = crouch ? Math.min(this.settings.crouch, this.settings.eye) : this.settings.eye
    if (this.eye === wanted) return
    const before = this.eye
    const way = wanted - before
    this.eye = before + Math.sign(way) * Math.min(Math.abs(way), 4 * seconds)
    this.hold()
    // Under something low one stays down.
    if (way > 0 && this.wallAt(this.at.x, this.at.y, this.at.z)) this.eye = before
  }

  /** One small step to the side: along walls and steep slopes, up steps and down. */
  private walk(dx: number, dz: number): void {
    let [wx, wz] = [dx, dz]
    for (let tries = 0; tries < 5 && Math.hypot(wx, wz) > 1e-9; tries++) {
      const [x, z] = [this.at.x + wx, this.at.z + wz]
      const support = this.support(x, z, this.at.y + this.settings.step)
      let feet = this.at.y
      let wall: Wall | null = null
      if (support && support.feet > this.at.y + SKIN && !support.walkable) {
        wall = { normal: support.normal, depth: 0, thing: support.thing, at: support.contact }
      } else if (support && (this.grounded ? support.feet >= this.at.y - this.settings.step : support.feet > this.at.y))
        feet = support.feet
      wall ??= this.wallAt(x, feet, z)
      if (!wall) {
        // Standing on something steep is falling.
        this.at.set(x, this.grounded && support && !support.walkable ? Math.max(feet, this.at.y) : feet, z)
        return
      }
      this.stopped(wall)
      const across = Math.hypot(wall.normal.x, wall.normal.z)
      if (across < 0.05) return
      const [nx, nz] = [wall.normal.x / across, wall.normal.z / across]
      const into = wx * nx + wz * nz
      // Out of the wall, and no farther into it.
      const out = wall.depth > SKIN ? Math.min(wall.depth / across, this.settings.radius / 2) : 0
      const take = Math.min(into, 0)
      if (take === 0 && out === 0) return
      wx += nx * (out > 0 ? Math.min(out, Math.max(-take, 0) + SKIN) : -take)
      wz += nz * (out > 0 ? Math.min(out, Math.max(-take, 0) + SKIN) : -take)
      if (wx * dx + wz * dz < -1e-12) return
    }
  }

  private fall(seconds: number): void {
    if (this.grounded) {
      const support = this.support(this.at.x, this.at.z, this.at.y + this.settings.step)
      const isThere =
        (support !== null && support.walkable && support.feet >= this.at.y - this.settings.step)
        || this.at.y <= this.floor + SKIN
      if (isThere) {
        this.ground = support?.walkable ? support.contact.y : this.at.y
        if (support?.walkable && support.feet > this.floor)
          this.at.y = this.wallAt(this.at.x, support.feet, this.at.z) ? this.at.y : support.feet
        this.isOnFloor = this.at.y <= this.floor + SKIN && !(support?.walkable && support.feet >= this.floor - SKIN)
        return
      }
      this.grounded = false
      this.speedUp = 0
    }
    const way = this.speedUp * seconds - (GRAVITY * seconds * seconds) / 2
    this.speedUp = Math.max(this.speedUp - GRAVITY * seconds, -FASTEST_FALL)
    if (way > 0) {
      if (this.wallAt(this.at.x, this.at.y + way, this.at.z)) this.speedUp = 0
      else this.at.y += way
      return
    }
    const next = this.at.y + way
    const support = this.support(this.at.x, this.at.z, this.at.y + SKIN)
    if (support && support.feet >= next) {
      if (support.walkable || !this.slideDown(support, support.feet - next))
        this.land(Math.min(support.feet, this.at.y + SKIN))
      return
    }
    this.at.y = next
    if (next <= this.floor) {
      this.land(this.floor)
      this.isOnFloor = true
    }
  }

  private land(feet: number): void {
    this.at.y = feet
    this.ground = feet
    this.speedUp = 0
    this.grounded = true
    this.isOnFloor = false
  }

  /** Down along what is too steep to stand on. @returns false where there is no way down */
  private slideDown({ normal }: Support, by: number): boolean {
    const across = Math.hypot(normal.x, normal.z)
    if (across < 1e-3) return false
    const out = Math.min((by * normal.y) / across, this.settings.radius / 2)
    const [x, z] = [this.at.x + (normal.x / across) * out, this.at.z + (normal.z / across) * out]
    const support = this.support(x, z, this.at.y + SKIN)
    const feet = Math.max(support?.feet ?? -Infinity, this.at.y - by)
    if (feet > this.at.y - by / 1000 || this.wallAt(x, feet, z)) return false
    this.at.set(x, feet, z)
    return true
  }

  /** What the lower end would rest on at x, z, not higher than some feet. */
  private support(x: number, z: number, most: number): Support | null {
    const { radius, step } = this.settings
    const {
      triangles: { count, corners, boxes, things },
    } = this.hold()
    // However far one stride goes: an edge is a step as high as it lies above what one stands on, and not as high as
    // the body would roll onto it.
    const highest = (this.grounded ? this.ground : this.at.y) + step + SKIN
    let best: Support | null = null
    for (let i = 0; i < count; i++) {
      const at = i * 6
      if (
        boxes[at]! > x + radius
        || boxes[at + 3]! < x - radius
        || boxes[at + 2]! > z + radius
        || boxes[at + 5]! < z - radius
      )
        continue
      if (best && boxes[at + 4]! < best.feet) continue
      const touch = dropBall(x, z, radius, corners, i * 9)
      if (!touch) continue
      const feet = touch.height - radius
      if (feet > most) continue
      if (best && feet < best.feet - TIE) continue
      const normal = new Vector3(x - touch.x, touch.height - touch.y, z - touch.z).divideScalar(radius)
      const walkable = touch.isFace
        ? normal.y >= this.steepest
        : touch.y <= highest && (normal.y >= this.steepest || faceUp(corners, i * 9) >= this.steepest)
      // Of two that are as high, one that can be stood on counts.
      if (best && feet <= best.feet + TIE && (best.walkable || !walkable)) continue
      best = { feet, normal, contact: new Vector3(touch.x, touch.y, touch.z), walkable, thing: things[i]! }
    }
    return best
  }

  /** What the body above its lower end is deepest in, standing so. */
  private wallAt(x: number, feet: number, z: number): Wall | null {
    const { radius } = this.settings
    const {
      triangles: { count, corners, boxes, things },
    } = this.hold()
    const [low, high] = [feet + radius + SKIN, feet + this.height - radius]
    line.start.set(x, Math.min(low, high), z)
    line.end.set(x, Math.max(low, high), z)
    let worst: Wall | null = null
    for (let i = 0; i < count; i++) {
      const at = i * 6
      if (
        boxes[at]! > x + radius
        || boxes[at + 3]! < x - radius
        || boxes[at + 2]! > z + radius
        || boxes[at + 5]! < z - radius
      )
        continue
      if (boxes[at + 1]! > high + radius || boxes[at + 4]! < low - radius) continue
      triangle.a.fromArray(corners as unknown as number[], i * 9)
      triangle.b.fromArray(corners as unknown as number[], i * 9 + 3)
      triangle.c.fromArray(corners as unknown as number[], i * 9 + 6)
      triangle.needsUpdate = true
      const distance = triangle.closestPointToSegment(line, onTriangle, onLine)
      const depth = radius - distance
      if (depth <= SKIN * 2 || (worst && depth <= worst.depth)) continue
      const normal =
        distance > 1e-9 ? onLine.clone().sub(onTriangle).divideScalar(distance) : triangle.getNormal(new Vector3())
      worst = { depth, normal, thing: things[i]!, at: onTriangle.clone() }
    }
    return worst
  }

  private stopped({ thing, at }: Pick<Wall, 'thing' | 'at'>): void {
    const known = this.stops.get(thing)
    // Walking on against the same thing is one stop.
    if (known && this.stoppedLast === thing) return
    this.stoppedLast = thing
    this.stops.delete(thing)
    this.stops.set(thing, { thing, at: at.toArray(), count: (known?.count ?? 0) + 1 })
  }

  /** The triangles around, gathered anew where the body comes near the end of them. */
  private hold(): { box: Box3; triangles: Triangles } {
    const {
      at,
      held,
      settings: { radius, step },
    } = this
    if (held) {
      const { min, max } = held.box
      const near = radius + HELD / 2
      if (
        at.x - near >= min.x
        && at.x + near <= max.x
        && at.z - near >= min.z
        && at.z + near <= max.z
        && at.y - step - 1 >= min.y
        && at.y + this.height + step + 0.5 <= max.y
      )
        return held
    }
    const box = new Box3(
      new Vector3(at.x - radius - HELD, at.y - step - 1 - HELD * 2, at.z - radius - HELD),
      new Vector3(at.x + radius + HELD, at.y + this.height + step + 0.5 + HELD, at.z + radius + HELD),
    )
    return (this.held = { box, triangles: trianglesIn(this.index, box) })
  }
}

/** Heights that count as the same, in metres. */
const TIE = 1e-6
const UP = new Vector3(0, 1, 0)
const line = new Line3()
const triangle = new ExtendedTriangle()
const [onTriangle, onLine] = [new Vector3(), new Vector3()]

/** How much a face looks upwards, or downwards: 1 if it is level. */
function faceUp(t: Float64Array, at: number): number {
  const [ux, uy, uz] = [t[at + 3]! - t[at]!, t[at + 4]! - t[at + 1]!, t[at + 5]! - t[at + 2]!]
  const [vx, vy, vz] = [t[at + 6]! - t[at]!, t[at + 7]! - t[at + 1]!, t[at + 8]! - t[at + 2]!]
  const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  return Math.abs(ny) / Math.hypot(nx, ny, nz)
}
