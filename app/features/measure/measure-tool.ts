import type { Ray } from 'three'
import { Vector3 } from 'three'
import { directionsOf } from '~~/core/edit/handles/axes'
import type { Constraint } from '~~/core/edit/handles/lock'
import { freeAxes, sayLock } from '~~/core/edit/handles/lock'
import type { PointOn } from '~~/core/level/fields'
import type { MeasureKind } from '~~/core/level/measure'
import type { Measure } from '~~/core/level/schema'
import { clickTarget } from '~~/core/level/tree'
import { endAt } from '~~/core/measure/definition'
import { featuresOf } from '~~/core/mesh/features'
import { copyOf } from '~~/core/scene/copy-id'
import type { Quaternion } from 'three'
import { counted } from '~~/core/units/plural'
import { lockOf } from '~/editor/keys/stage-uses'
import type { Gesture, KeyPress, ModeWork, PointerAt, StageMode } from '~/editor/tools/gesture'
import type { MeasureTask, ToolId } from '~/editor/tools/tool-id'
import type { ToolWorld } from '~/editor/tools/tool-world'
import type { FoundPoint } from './find-point'
import { findPoint } from './find-point'

/** Which kind of measure comes of a task, and after how many clicks; 0 for as many as one likes. */
export const TASK_KINDS = {
  'tape': { kind: 'tape', clicks: 2, wants: 'point' },
  'angle': { kind: 'angle', clicks: 3, wants: 'point' },
  'edges': { kind: 'angle', clicks: 2, wants: 'edge' },
  'slope': { kind: 'slope', clicks: 2, wants: 'point' },
  'face-slope': { kind: 'slope', clicks: 1, wants: 'face' },
  'face': { kind: 'area', clicks: 1, wants: 'point' },
  'faces': { kind: 'area', clicks: 1, wants: 'point' },
  'loop': { kind: 'area', clicks: 0, wants: 'point' },
  'height': { kind: 'height', clicks: 1, wants: 'point' },
  'clearance': { kind: 'clearance', clicks: 2, wants: 'thing' },
  'length': { kind: 'length', clicks: 1, wants: 'thing' },
} satisfies Record<MeasureTask, { kind: MeasureKind; clicks: number; wants: 'point' | 'edge' | 'face' | 'thing' }>

/** A kind of measure that no task makes is an error here. */
type Made = (typeof TASK_KINDS)[MeasureTask]['kind']
true satisfies MeasureKind extends Made ? true : never

/** A measure as it is being made, or made. */
export type MeasureDraft = Pick<Measure, 'kind' | 'ends' | 'sides' | 'connected'>

/** What the tool needs of whoever keeps measures. */
export type MeasureHooks = {
  /** Shows what has come of it so far, and says it: the main number first, then the others; null ends that. */
  show: (draft: MeasureDraft | null) => string[]
  keep: (draft: MeasureDraft) => void
  axes: () => Quaternion
}

/** How near to a point that was clicked, in pixels, a click means that point. */
const REACH = 10

/**
 * Measures by clicks on the stage, one after the other, until it is stopped. Points are caught by whatever vertex snap
 * catches, and at right angles on edges; with Ctrl they are taken as they are. Shift goes on with a chain; Enter, or a
 * click on the last point, ends it.
 */
export class MeasureTool implements StageMode {
  readonly id: ToolId
  readonly title: string
  private ends: PointOn[] = []
  private sides: string[][] = []
  private lock: Constraint | null = null
  private pointer: PointerAt | null = null

  constructor(
    private readonly world: ToolWorld,
    private readonly task: MeasureTask,
    name: string,
    private readonly hint: string,
    private readonly hooks: MeasureHooks,
  ) {
    this.id = { tool: 'measure', task }
    this.title = `Measuring: ${name}`
    world.stage.handles.place(null)
    const picked = [...world.selection().ids]
    if (task === 'clearance' && picked.length > 0) this.sides = [picked]
  }

  hover(pointer: PointerAt): void {
    this.pointer = pointer
    const { world } = this
    if (TASK_KINDS[this.task].wants === 'thing') {
      const thing = this.thingAt(pointer)
      world.stage.setHovered(thing)
      const isOther = thing !== null && !this.isMeasured(thing)
      const draft = isOther ? this.draftWith([], [[thing]]) : null
      const name = thing === null ? null : world.level().need(thing).name
      this.say(
        pointer,
        name === null ? 'point at a thing' : isOther ? name : `from ${name}: now point at the other`,
        draft,
      )
      return
    }
    const found = this.find(pointer)
    world.stage.setHovered(null)
    world.stage.hint(found && { target: found.at })
    const more = found && this.endsAt(pointer, found)
    this.say(pointer, found?.says ?? 'nothing here', more && this.draftWith(more, []))
  }

  press(pointer: PointerAt): Gesture | null {
    this.hover(pointer)
    if (this.isOnLast(pointer) && this.finish()) return null
    if (TASK_KINDS[this.task].wants === 'thing') {
      const thing = this.thingAt(pointer)
      if (thing && !this.isMeasured(thing)) this.sides.push([thing])
    } else {
      const found = this.find(pointer)
      const more = found && this.endsAt(pointer, found)
      if (more) this.ends.push(...more)
    }
    const { clicks } = TASK_KINDS[this.task]
    const perClick = { point: 1, edge: 2, face: 3, thing: 1 }[TASK_KINDS[this.task].wants]
    const done = Math.floor((this.ends.length + this.sides.length) / perClick)
    if (clicks > 0 && done >= clicks && !(this.task === 'tape' && pointer.shift)) this.finish()
    this.hover(pointer)
    return null
  }

  key({ is, down }: KeyPress): boolean {
    if (!down) return false
    const lock = lockOf(is, this.world.axes())
    if (lock && this.ends.length > 0)
      this.lock = lock.kind === 'view' || JSON.stringify(lock) === JSON.stringify(this.lock) ? null : lock
    else if (is('finish')) this.finish()
    else if (is('takeBack') && this.ends.length > 0) this.ends.pop()
    else if (is('type') && this.ends.length > 0 && TASK_KINDS[this.task].wants === 'point') this.type()
    else return false
    if (this.pointer) this.hover(this.pointer)
    return true
  }

  work(): ModeWork | null {
    const [ends, sides] = [[...this.ends], [...this.sides]]
    if (ends.length + sides.length === 0) return null
    return {
      what: `the measure with ${counted(ends.length + sides.length, TASK_KINDS[this.task].wants === 'thing' ? 'thing' : 'point')}`,
      keep: this.draftWith([], []) ? () => void this.finish() : null,
      drop: () => this.begin(),
      resume: () => {
        ;[this.ends, this.sides] = [ends, sides]
        this.hooks.show(this.draftWith([], []))
      },
    }
  }

  leave(): void {
    this.world.stage.hint(null)
    this.world.stage.setHovered(null)
    this.world.say(null)
  }

  stop(): void {
    this.begin()
    this.leave()
    this.world.ask(null)
  }

  /** Keeps what has been clicked, if it is enough, and begins anew. */
  private finish(): boolean {
    const draft = this.draftWith([], [])
    if (draft === null) return false
    this.begin()
    this.hooks.keep(draft)
    return true
  }

  private begin(): void {
    this.ends = []
    this.sides = []
    this.lock = null
    this.hooks.show(null)
  }

  /** The next point by typing how far it is from the last, the way the pointer is. */
  private type(): void {
    const { world, pointer } = this
    const found = pointer && this.find(pointer)
    const last = this.ends.at(-1)
    if (!pointer || !found || !last) return
    const from = new Vector3(...last.at)
    const way = found.at.clone().sub(from)
    if (way.length() < 1e-9) return
    let wanted = way.length()
    const at = (metres: number) => from.clone().addScaledVector(way, metres / way.length())
    const show = (metres: number) => this.hooks.show(this.draftWith([endAt(world.level(), null, at(metres))], []))
    world.say(null)
    world.ask({
      at: pointer,
      title: 'So far from the last point',
      fields: [{ label: 'Length', quantity: 'length', value: way.length() }],
      check: ([metres]) => (metres! > 0 ? null : 'A length has to be more than 0.'),
      change: ([metres]) => {
        wanted = metres!
        show(wanted)
      },
      commit: () => {
        world.ask(null)
        this.ends.push(endAt(world.level(), null, at(wanted)))
        if (this.task === 'tape' || this.task === 'slope') this.finish()
      },
      cancel: () => world.ask(null),
    })
  }

  private say(pointer: PointerAt, what: string, draft: MeasureDraft | null | undefined): void {
    const [value, ...more] = this.hooks.show(draft ?? null)
    const count = this.ends.length + this.sides.length
    this.world.say({
      at: pointer,
      title: this.title,
      value: value ?? what,
      notes: [
        ...more,
        ...(value ? [what] : []),
        ...(count === 0 ? [this.hint] : []),
        ...(this.lock ? [`locked ${sayLock(this.lock, this.world.axes())}`] : []),
        ...(count > 0 && TASK_KINDS[this.task].wants === 'point'
          ? [
              `{Lock to X} {Lock to Y} {Lock to Z} lock an axis, {Type numbers instead} types a length${this.task === 'tape' ? ', Shift goes on as a chain' : ''}`,
            ]
          : []),
      ],
    })
  }

  /** What has been clicked with more behind it; null if that is not a measure yet. */
  private draftWith(ends: readonly PointOn[], sides: readonly string[][]): MeasureDraft | null {
    const { kind } = TASK_KINDS[this.task]
    const draft: MeasureDraft = {
      kind,
      ends: [...this.ends, ...ends],
      sides: [...this.sides, ...sides],
      connected: this.task === 'faces',
    }
    const least = {
      tape: 2,
      walk: 2,
      slope: this.task === 'slope' ? 2 : 3,
      angle: this.task === 'angle' ? 3 : 4,
      area: this.task === 'loop' ? 3 : 1,
      height: 1,
      clearance: 0,
      length: 0,
    }[kind]
    if (
      draft.ends.length < least
      || (kind === 'clearance' && draft.sides.length < 2)
      || (kind === 'length' && draft.sides.length < 1)
    )
      return null
    return draft
  }

  private endsAt(pointer: PointerAt, found: FoundPoint): PointOn[] | null {
    const level = this.world.level()
    const { wants } = TASK_KINDS[this.task]
    if (wants === 'point') return [endAt(level, found.on, found.at)]
    const corners = this.triangleAt(pointer)
    if (!corners) return null
    if (wants === 'face') return corners.points.map(point => endAt(level, corners.on, point))
    return corners.edge?.map(point => endAt(level, corners.on, point)) ?? null
  }

  /** The triangle under the pointer, and that of its sides that is an edge of the shape and nearest. */
  private triangleAt(pointer: PointerAt): { on: string; points: Vector3[]; edge: Vector3[] | null } | null {
    const { world } = this
    const view = world.stage.viewAt(pointer)
    const hit = world.index().raycast(view.aim(pointer).ray)
    if (!hit) return null
    const points = hit.triangle.map(point => point.clone())
    const [shown] = world.index().shownBy(hit.copy ?? hit.id)
    const edges = shown ? featuresOf(shown.solid.mesh.primitives[hit.face.primitive]!).edges[hit.face.triangle]! : 0
    const sides = points.map((point, i) => [point, points[(i + 1) % 3]!]).filter((_, i) => edges & (1 << i))
    const away = ([a, b]: Vector3[]) => {
      const way = b!.clone().sub(a!)
      const share = Math.min(1, Math.max(0, hit.point.clone().sub(a!).dot(way) / way.lengthSq()))
      return hit.point.distanceTo(a!.clone().addScaledVector(way, share))
    }
    const edge = sides.sort((a, b) => away(a) - away(b))[0] ?? null
    return { on: hit.copy ?? hit.id, points, edge }
  }

  /** Whether a thing is the one already, or a part of it: nothing is measured against itself. */
  private isMeasured(thing: string): boolean {
    const level = this.world.level()
    return this.sides.flat().some(id => level.isWithin(thing, id) || level.isWithin(id, thing))
  }

  private thingAt(pointer: PointerAt): string | null {
    const { world } = this
    const hit = world.index().raycast(world.stage.viewAt(pointer).aim(pointer).ray)
    if (!hit) return null
    if (this.task === 'length') return copyOf(hit.copy ?? hit.id)?.arrangementId ?? hit.id
    return clickTarget(world.level(), hit.id, new Set())
  }

  private find(pointer: PointerAt): FoundPoint | null {
    const { world } = this
    const last = this.ends.at(-1)
    const from = last ? new Vector3(...last.at) : null
    const isPoint = TASK_KINDS[this.task].wants === 'point' && this.task !== 'face' && this.task !== 'faces'
    const found = findPoint(world, pointer, { snaps: isPoint, from })
    if (!from || !this.lock || this.lock.kind === 'view') return found
    const axes = directionsOf(this.hooks.axes())
    const free = freeAxes(this.lock).map(axis => axes[axis]!)
    if (!found) {
      const [along] = free
      const point =
        along && free.length === 1 ? nearestOnLine(from, along, world.stage.viewAt(pointer).rayAt(pointer)) : null
      return point && { at: point, on: null, says: 'along the locked axis' }
    }
    const way = found.at.clone().sub(from)
    const kept = free.reduce((sum, axis) => sum.addScaledVector(axis, axis.dot(way)), new Vector3())
    return { at: from.clone().add(kept), on: null, says: `level with the ${found.says}` }
  }

  private isOnLast(pointer: PointerAt): boolean {
    const last = this.ends.at(-1)
    if (!last) return false
    const seen = this.world.stage.viewAt(pointer).project(new Vector3(...last.at))
    return seen !== null && Math.hypot(seen.x - pointer.x, seen.y - pointer.y) <= REACH
  }
}

/** The point of a line nearest to a ray of unit direction; null if they are parallel. */
function nearestOnLine(from: Vector3, along: Vector3, { origin, direction }: Ray): Vector3 | null {
  const between = from.clone().sub(origin)
  const cosine = along.dot(direction)
  const rest = 1 - cosine * cosine
  return rest < 1e-9
    ? null
    : from.clone().addScaledVector(along, (cosine * between.dot(direction) - between.dot(along)) / rest)
}
