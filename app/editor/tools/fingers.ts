import type { ScreenPoint } from '~~/core/math/screen'
import { Pace } from './coasting'
import type { PointerAt } from './gesture'
import { orbitCentre, pointUnder } from './navigate'
import type { ToolWorld } from './tool-world'

/** Degrees of a twist before it counts: fingers that spread turn a little by themselves. */
const TWIST = 8
/** Times as near or far at once, at most. */
const MOST_ZOOM = 2
/** Milliseconds after which a finger rests, and pixels it may wander until then. */
const RESTS = 500
export const FINGER_SLACK = 10

/** Where some fingers are as one: their middle, how far from it they are, and which way the second is of the first. */
type Hold = { middle: ScreenPoint; spread: number; angle: number }

function holdOf(fingers: readonly ScreenPoint[]): Hold {
  const count = fingers.length
  const middle = {
    x: fingers.reduce((sum, { x }) => sum + x, 0) / count,
    y: fingers.reduce((sum, { y }) => sum + y, 0) / count,
  }
  const spread = fingers.reduce((sum, { x, y }) => sum + Math.hypot(x - middle.x, y - middle.y), 0) / count
  const [a, b] = fingers
  return { middle, spread, angle: Math.atan2(b!.y - a!.y, b!.x - a!.x) }
}

/** Takes where the same fingers are now; let go of, the view goes on. */
export type Steering = { move: (now: readonly PointerAt[]) => void; end: () => void }

/** An angle between half a turn back and half a turn on. */
const within = (angle: number) => Math.atan2(Math.sin(angle), Math.cos(angle))

/**
 * Steers the view by two or more fingers: moved together they pan, spread they zoom at their middle, twisted they turn
 * the view; three orbit. Or two orbit and three pan, as the pointing device is set.
 *
 * @param from two fingers or more, in pixels of the stage
 */
export function steerByFingers(world: ToolWorld, from: readonly PointerAt[]): Steering {
  let last = holdOf(from)
  const middle: PointerAt = { ...from[0]!, ...last.middle }
  const view = world.stage.viewAt(middle)
  const at = pointUnder(world, view, middle)
  const centre = orbitCentre(world, view, middle)
  const { fingers, orbitSpeed } = world.pointing()
  const orbits = (fingers === 'orbit') === (from.length === 2)
  let twisted = 0
  const pace = new Pace()
  const turn = (dx: number, dy: number) =>
    orbits ? view.orbit(dx * orbitSpeed, dy * orbitSpeed, centre) : view.pan(dx, dy, at)

  const move = (now: readonly PointerAt[]) => {
    const next = holdOf(now)
    const [dx, dy] = [next.middle.x - last.middle.x, next.middle.y - last.middle.y]
    turn(dx, dy)
    pace.add(dx, dy, performance.now())
    if (next.spread > 1 && last.spread > 1)
      view.zoom(at, Math.min(Math.max(last.spread / next.spread, 1 / MOST_ZOOM), MOST_ZOOM))
    if (!orbits && now.length === 2) {
      const twist = within(next.angle - last.angle)
      const before = twisted
      twisted += twist
      // As far as the fingers: a whole turn of them is one of the view.
      const enough = (TWIST * Math.PI) / 180
      if (Math.abs(before) > enough || Math.abs(twisted) > enough)
        view.orbit((-twist * view.rect.height) / (2 * Math.PI), 0, at)
    }
    last = next
  }
  return { move, end: () => world.coasting.begin(pace.now(performance.now()), world.coasts(), turn) }
}

/** What fingers on the stage come to besides steering the view. */
export type FingerEvents = {
  /** One has rested where it came down. */
  onRested: (at: PointerAt) => void
  /** A second one came: what the first began is meant no more. */
  onSteer: () => void
}

/** Fingers on the stage: one is a pointer, that may rest; several steer the view, until all are gone again. */
export class Fingers {
  private readonly down = new Map<number, { from: PointerAt; at: PointerAt }>()
  private steering: Steering | null = null
  private resting: ReturnType<typeof setTimeout> | undefined

  constructor(
    private readonly world: ToolWorld,
    private readonly events: FingerEvents,
  ) {}

  get areDown(): boolean {
    return this.down.size > 0
  }

  /** One comes down. @returns whether it steers the view, with others */
  putDown(id: number, at: PointerAt): boolean {
    this.down.set(id, { from: at, at })
    clearTimeout(this.resting)
    if (this.down.size === 1) {
      this.resting = setTimeout(() => this.events.onRested(at), RESTS)
      return false
    }
    this.events.onSteer()
    this.steering = steerByFingers(this.world, this.now())
    return true
  }

  /** One moves. @returns whether that steers the view */
  slide(id: number, at: PointerAt): boolean {
    const finger = this.down.get(id)
    if (!finger) return false
    finger.at = at
    if (Math.hypot(at.x - finger.from.x, at.y - finger.from.y) > FINGER_SLACK) clearTimeout(this.resting)
    if (this.down.size > 1) this.steering?.move(this.now())
    return this.steering !== null
  }

  /** One is lifted. @returns whether it steered the view */
  lift(id: number): boolean {
    if (!this.down.delete(id)) return false
    clearTimeout(this.resting)
    const before = this.steering
    if (!before) return false
    if (this.down.size > 1) this.steering = steerByFingers(this.world, this.now())
    // One that is left begins nothing by itself, and the last of several lets go.
    else if (this.down.size === 1) before.end()
    else this.steering = null
    return true
  }

  dispose(): void {
    clearTimeout(this.resting)
  }

  private now(): PointerAt[] {
    return [...this.down.values()].map(({ at }) => at)
  }
}
