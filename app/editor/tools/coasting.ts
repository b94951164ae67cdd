import type { ScreenPoint } from '~~/core/math/screen'

/** Milliseconds of a way that its pace is told by, and after which a pointer has rested. */
const [TOLD_BY, RESTED] = [160, 110]
/** Pixels a second below which it is over. */
const OVER = 8
/** Of the time it goes on, the share in which it slows to a third. */
const SLOWS = 1 / 3

/** How fast a pointer goes, in pixels a second, by the last of its way. */
export class Pace {
  private readonly way: { at: number; dx: number; dy: number }[] = []

  /** @param at milliseconds */
  add(dx: number, dy: number, at: number): void {
    this.way.push({ at, dx, dy })
    while (this.way[0]!.at < at - TOLD_BY) this.way.shift()
  }

  /** Nothing for one that has rested. */
  now(at: number): ScreenPoint {
    const last = this.way.at(-1)
    if (!last || at - last.at > RESTED || this.way.length < 2) return { x: 0, y: 0 }
    const seconds = Math.max(last.at - this.way[0]!.at, 1) / 1000
    // The first says how far it had come by then, not how fast it went on.
    const sum = (of: 'dx' | 'dy') => this.way.slice(1).reduce((all, each) => all + each[of], 0)
    return { x: sum('dx') / seconds, y: sum('dy') / seconds }
  }
}

/**
 * How far something goes between two times after it was let go of, slower and slower.
 *
 * @param pace pixels a second as it was let go of
 * @param lasts seconds after which hardly anything is left of it
 * @param from seconds since it was let go of
 */
export function coastedBetween({ x, y }: ScreenPoint, lasts: number, from: number, to: number): ScreenPoint {
  const slows = lasts * SLOWS
  const share = slows * (Math.exp(-from / slows) - Math.exp(-to / slows))
  return { x: x * share, y: y * share }
}

/** Lets the view go on after the hand that steered it has let go, until something else is done. */
export class Coasting {
  private frame = 0

  /** @param turn takes pixels, as from a pointer that moves */
  begin(pace: ScreenPoint, lasts: number, turn: (dx: number, dy: number) => void): void {
    this.end()
    const speed = Math.hypot(pace.x, pace.y)
    if (!(lasts > 0) || speed < OVER) return
    const began = performance.now()
    let gone = 0
    const step = () => {
      const now = (performance.now() - began) / 1000
      const { x, y } = coastedBetween(pace, lasts, gone, now)
      gone = now
      turn(x, y)
      this.frame = speed * Math.exp(-now / (lasts * SLOWS)) < OVER ? 0 : requestAnimationFrame(step)
    }
    this.frame = requestAnimationFrame(step)
  }

  end(): void {
    if (this.frame !== 0) cancelAnimationFrame(this.frame)
    this.frame = 0
  }
}
