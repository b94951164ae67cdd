import { Vector3 } from 'three'
import type { Vec3 } from '~~/core/math/vectors'
import { findLanding } from '~~/core/edit/snap/landing'
import { findSnapPoint } from '~~/core/edit/snap/vertex'
import { counted } from '~~/core/units/plural'
import type { Gesture, KeyPress, ModeWork, PointerAt, StageMode } from './gesture'
import type { ToolNamed } from './tool-id'
import type { ToolWorld } from './tool-world'

/** How near to a point of the path, in pixels, a click means that point. */
const REACH = 10

/** How a path is drawn. */
export type PathOptions = {
  title?: string
  /** What no point is put on; nothing when left out. */
  leaveOut?: ReadonlySet<string>
  /** Shows the path as it would be now; null shows none. */
  show: (points: Vec3[] | null, closed: boolean) => void
  done: (points: Vec3[], closed: boolean) => void
}

/**
 * Draws a path on the surfaces of the level, a click for each point. A click on the last point, or Enter, ends it; one
 * on the first point closes it; Backspace takes the last point back.
 */
export class PathTool implements StageMode {
  private readonly points: Vector3[] = []

  /**
   * @param leaveOut what the points do not come to lie on
   * @param show shows what the points so far would make; null ends that
   * @param done takes the finished path
   */
  readonly title: string
  private readonly leaveOut: ReadonlySet<string>
  private readonly show: PathOptions['show']
  private readonly done: PathOptions['done']

  constructor(
    private readonly world: ToolWorld,
    readonly id: ToolNamed<'path'>,
    { title = 'Drawing a path', leaveOut = new Set(), show, done }: PathOptions,
  ) {
    this.title = title
    this.leaveOut = leaveOut
    this.show = show
    this.done = done
    world.stage.handles.place(null)
    world.stage.handles.setGrips([])
  }

  hover(pointer: PointerAt): void {
    const { world, points } = this
    const which = this.pointAt(pointer)
    const next = which === null ? this.find(pointer) : null
    const closes = which === 0 && points.length > 2
    const all = next ? [...points, next] : points
    this.show(all.length > 1 ? asVectors(all) : null, closes)
    world.stage.hint(next ? { target: next } : null)
    world.say({
      at: pointer,
      title: this.title,
      value: next
        ? next
            .toArray()
            .map(value => world.printLength(value))
            .join('  ')
        : closes
          ? 'closes the path'
          : which === points.length - 1 && points.length > 1
            ? 'ends the path'
            : 'a point of the path',
      notes:
        points.length < 2
          ? ['click for each point']
          : [
              '{Finish what is drawn} ends it, {Take back the last point} takes a point back',
              ...(points.length > 2 ? ['a click on the first point closes it'] : []),
            ],
    })
  }

  press(pointer: PointerAt): Gesture | null {
    const which = this.pointAt(pointer)
    if (which === 0 && this.points.length > 2) this.finish(true)
    else if (which !== null && which === this.points.length - 1 && this.points.length > 1) this.finish(false)
    else {
      const point = which === null ? this.find(pointer) : null
      if (point) this.points.push(point)
      this.markPoints()
    }
    return null
  }

  key({ is, down }: KeyPress): boolean {
    if (!down) return false
    if (is('finish') && this.points.length > 1) this.finish(false)
    else if (is('takeBack') && this.points.length > 0) this.put(this.points.slice(0, -1))
    else return false
    return true
  }

  work(): ModeWork | null {
    const points = [...this.points]
    if (points.length === 0) return null
    return {
      what: `the path of ${counted(points.length, 'point')}`,
      keep: points.length > 1 ? () => this.finish(false) : null,
      drop: () => this.put([]),
      resume: () => this.put(points),
    }
  }

  leave(): void {
    this.world.stage.hint(null)
    this.world.say(null)
  }

  stop(): void {
    this.show(null, false)
    this.leave()
  }

  private finish(closed: boolean): void {
    const points = asVectors(this.points.splice(0))
    this.show(null, false)
    this.done(points, closed)
  }

  private put(points: readonly Vector3[]): void {
    this.points.splice(0, Infinity, ...points)
    this.markPoints()
    this.show(points.length > 1 ? asVectors(points) : null, false)
  }

  private markPoints(): void {
    this.world.stage.handles.setGrips(this.points.map(at => ({ at })))
    this.world.stage.requestOverlay()
  }

  private pointAt(pointer: PointerAt): number | null {
    const view = this.world.stage.viewAt(pointer)
    const found = this.points.findIndex(point => {
      const seen = view.project(point)
      return seen !== null && Math.hypot(seen.x - pointer.x, seen.y - pointer.y) <= REACH
    })
    return found < 0 ? null : found
  }

  private find(pointer: PointerAt): Vector3 | null {
    const { world } = this
    const aim = world.stage.viewAt(pointer).aim(pointer)
    const accept = (id: string) => !this.leaveOut.has(id)
    const kinds = world.moveSnaps(pointer.ctrl).vertex
    const caught = kinds && findSnapPoint(world.level(), world.finder(), aim, kinds, accept)
    if (caught) return caught.point.clone()
    const landing = findLanding(world.finder(), aim.ray, world.step('grid', pointer.ctrl).size, accept)
    return landing && new Vector3(...landing.point)
  }
}

const asVectors = (points: readonly Vector3[]) => points.map(point => point.toArray() as Vec3)
