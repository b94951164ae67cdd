import type { ScreenPoint } from '~~/core/math/screen'
import type { PointerAt } from './gesture'
import { orbitCentre, pointUnder } from './navigate'
import type { ToolWorld } from './tool-world'

/** Degrees of a twist before it counts: fingers that spread turn a little by themselves. */
const TWIST = 8
/** Times as near or far at once, at most. */
const MOST_ZOOM = 2

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

/** An angle between half a turn back and half a turn on. */
const within = (angle: number) => Math.atan2(Math.sin(angle), Math.cos(angle))

/**
 * Steers the view by two or more fingers: moved together they pan, spread they zoom at their middle, twisted they turn
 * the view; three orbit. Or two orbit and three pan, as the pointing device is set.
 *
 * @param from two fingers or more, in pixels of the stage
 * @returns takes where the same fingers are now
 */
export function steerByFingers(world: ToolWorld, from: readonly PointerAt[]): (now: readonly PointerAt[]) => void {
  let last = holdOf(from)
  const middle: PointerAt = { ...from[0]!, ...last.middle }
  const view = world.stage.viewAt(middle)
  const at = pointUnder(world, view, middle)
  const centre = orbitCentre(world, view, middle)
  const { fingers, orbitSpeed } = world.pointing()
  const orbits = (fingers === 'orbit') === (from.length === 2)
  let twisted = 0

  return now => {
    const next = holdOf(now)
    const [dx, dy] = [next.middle.x - last.middle.x, next.middle.y - last.middle.y]
    if (orbits) view.orbit(dx * orbitSpeed, dy * orbitSpeed, centre)
    else view.pan(dx, dy, at)
    if (next.spread > 1 && last.spread > 1)
      view.zoom(at, Math.min(Math.max(last.spread / next.spread, 1 / MOST_ZOOM), MOST_ZOOM))
    if (!orbits && now.length === 2) {
      const turn = within(next.angle - last.angle)
      const before = twisted
      twisted += turn
      // As far as the fingers: a whole turn of them is one of the view.
      const enough = (TWIST * Math.PI) / 180
      if (Math.abs(before) > enough || Math.abs(twisted) > enough)
        view.orbit((-turn * view.rect.height) / (2 * Math.PI), 0, at)
    }
    last = next
  }
}
