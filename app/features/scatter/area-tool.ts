import { Vector3 } from 'three'
import { findLanding } from '~~/core/edit/snap/landing'
import { simplified } from '~~/core/math/simplify'
import type { Vec3 } from '~~/core/math/vectors'
import { counted } from '~~/core/units/plural'
import type { Gesture, KeyPress, ModeWork, PointerAt, StageMode } from '~/editor/tools/gesture'
import type { ToolWorld } from '~/editor/tools/tool-world'
import { ScatterOverlay } from './scatter-overlay'

/**
 * How near to the first or the last corner, in pixels, a click means that one; and how far apart points of a drag are
 * at least.
 */
const REACH = 10
const APART = 5

/**
 * Draws an area on the surfaces of the level: a click for each corner, or a drag along its edge. A loop ends with a
 * click on its first corner, a band with one on its last; both with Enter. Backspace takes the last corner back.
 */
export class AreaTool implements StageMode {
  readonly id = { tool: 'area' } as const
  readonly title: string
  private readonly points: Vector3[] = []
  private begunOn: string | null = null

  /** @param done takes the corners, in the world, and the thing or copy that the first one is on */
  constructor(
    private readonly world: ToolWorld,
    private readonly what: { type: 'loop' | 'band'; hole: boolean },
    private readonly accept: (id: string) => boolean,
    private readonly done: (points: Vec3[], begunOn: string | null) => void,
  ) {
    this.title = what.hole ? 'Drawing a hole' : what.type === 'band' ? 'Drawing a band' : 'Drawing an area'
  }

  hover(pointer: PointerAt): void {
    const which = this.cornerAt(pointer)
    const next = which === null ? this.find(pointer, this.world.step('grid', pointer.ctrl).size) : null
    const ends = this.ends(which)
    this.show(next, ends)
    this.world.say({
      at: pointer,
      title: this.title,
      value: ends
        ? 'ends it'
        : next
          ? next
              .toArray()
              .map(value => this.world.printLength(value))
              .join('  ')
          : 'a corner',
      notes:
        this.points.length === 0
          ? ['click each corner, or drag along the edge']
          : ['{Finish what is drawn} ends it, {Take back the last point} takes a corner back'],
    })
  }

  press(pointer: PointerAt): Gesture | null {
    const which = this.cornerAt(pointer)
    if (this.ends(which)) {
      this.finish()
      return null
    }
    const before = this.points.length
    this.add(pointer, this.world.step('grid', pointer.ctrl).size)
    let last = pointer
    return {
      move: to => {
        if (Math.hypot(to.x - last.x, to.y - last.y) < APART) return
        last = to
        this.add(to, 0)
        this.show(null, false)
      },
      end: to => {
        // What was drawn in one go from its beginning is whole.
        const drawn = this.points.length - before
        if (before === 0 && drawn > 8)
          return this.finish(this.world.stage.viewAt(to).metresPerPixel(this.points[0]!) * 2)
        this.show(null, false)
      },
      cancel: () => {
        this.points.length = before
        this.show(null, false)
      },
    }
  }

  key({ is, down }: KeyPress): boolean {
    if (!down) return false
    if (is('finish') && this.points.length >= this.fewest) this.finish()
    else if (is('takeBack') && this.points.length > 0) {
      this.points.pop()
      this.show(null, false)
    } else return false
    return true
  }

  work(): ModeWork | null {
    const points = [...this.points]
    if (points.length === 0) return null
    const put = (corners: readonly Vector3[]) => {
      this.points.splice(0, Infinity, ...corners)
      this.show(null, false)
    }
    return {
      what: `the area of ${counted(points.length, 'corner')}`,
      keep: points.length >= this.fewest ? () => this.finish() : null,
      drop: () => put([]),
      resume: () => put(points),
    }
  }

  leave(): void {
    this.world.say(null)
  }

  stop(): void {
    this.points.length = 0
    this.show(null, false)
    this.leave()
  }

  private get fewest(): number {
    return this.what.type === 'loop' ? 3 : 2
  }

  private ends(which: number | null): boolean {
    return (
      which !== null
      && this.points.length >= this.fewest
      && which === (this.what.type === 'loop' ? 0 : this.points.length - 1)
    )
  }

  private finish(tolerance = 0): void {
    const points = this.points.splice(0).map(point => point.toArray() as Vec3)
    this.done(tolerance > 0 ? simplified(points, tolerance) : points, this.begunOn)
  }

  private add(pointer: PointerAt, step: number): void {
    const point = this.find(pointer, step)
    if (!point || this.points.length >= 2000) return
    if (this.points.length === 0) {
      const hit = this.world.index().raycast(this.world.stage.viewAt(pointer).aim(pointer).ray, this.accept)
      this.begunOn = hit && (hit.copy ?? hit.id)
    }
    this.points.push(point)
  }

  private show(next: Vector3 | null, closes: boolean): void {
    const { stage } = this.world
    const points = next ? [...this.points, next] : this.points
    stage
      .layer(ScatterOverlay)
      .outline(
        points.length > 1
          ? [{ points, closed: this.what.type === 'loop' && (closes || points.length > 2), hole: this.what.hole }]
          : [],
      )
    stage.handles.setGrips(this.points.slice(0, 1).map(at => ({ at })))
    stage.requestOverlay()
  }

  private cornerAt(pointer: PointerAt): number | null {
    const view = this.world.stage.viewAt(pointer)
    const near = (point: Vector3 | undefined) => {
      const seen = point && view.project(point)
      return seen !== undefined && seen !== null && Math.hypot(seen.x - pointer.x, seen.y - pointer.y) <= REACH
    }
    return near(this.points[0]) ? 0 : near(this.points.at(-1)) ? this.points.length - 1 : null
  }

  private find(pointer: PointerAt, step: number): Vector3 | null {
    const landing = findLanding(
      this.world.index(),
      this.world.stage.viewAt(pointer).aim(pointer).ray,
      step,
      this.accept,
    )
    return landing && new Vector3(...landing.point)
  }
}
