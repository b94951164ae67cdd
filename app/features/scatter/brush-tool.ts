import type { Vector3 } from 'three'
import type { Vec3 } from '~~/core/math/vectors'
import type { Gesture, KeyPress, PointerAt, StageMode } from '~/editor/tools/gesture'
import type { BrushDoes, ToolId } from '~/editor/tools/tool-id'
import type { ToolWorld } from '~/editor/tools/tool-world'
import { ScatterOverlay } from './scatter-overlay'

/** Metres and a share, kept while the brush is used. */
export type Brush = { radius: number; strength: number }

/** Where a pointer meets a surface of the scatter. */
export type SurfaceHit = { id: string; copy?: string; point: Vector3; normal: Vector3 }

export type BrushEvents = {
  brush: () => Brush
  setBrush: (brush: Brush) => void
  /** A surface under the pointer; null beside all of them. */
  hit: (pointer: PointerAt) => SurfaceHit | null
  /** Shows what the stroke so far would make. @param points in the world */
  show: (does: 'add' | 'remove' | 'soften', points: readonly Vec3[], strength: number) => void
  /** The stroke is over: one change. */
  paint: (does: 'add' | 'remove' | 'soften', points: readonly Vec3[], strength: number) => void
  /** Nothing is shown any more. */
  forget: () => void
  put: (hit: SurfaceHit) => void
  /** The copy of the scatter under the pointer. */
  copyAt: (pointer: PointerAt) => string | null
  take: (copies: readonly string[]) => void
}

const OPPOSITE = { add: 'remove', remove: 'add', soften: 'soften', put: 'take', take: 'put' } as const
const SAYS: Record<BrushDoes, string> = {
  add: 'Painting where copies stand',
  remove: 'Painting them away',
  soften: 'Softening the paint',
  put: 'Putting one down',
  take: 'Taking single ones away',
}
/** What the other end of a pen does. */
const ERASES: Record<BrushDoes, BrushDoes> = {
  add: 'remove',
  remove: 'remove',
  soften: 'remove',
  put: 'take',
  take: 'take',
}
/** Of a radius: how far the pointer goes on before there is another point of the stroke. */
const STEP = 0.25
/** A radius or strength grows by so much for a notch of the wheel. */
const NOTCH = 1.12

/**
 * A ring on the surface that paints, or with which single copies are put down or taken away. Shift does the opposite.
 */
export class BrushTool implements StageMode {
  readonly id: ToolId
  private last: PointerAt | null = null

  constructor(
    private readonly world: ToolWorld,
    private readonly does: BrushDoes,
    private readonly events: BrushEvents,
  ) {
    this.id = { tool: 'brush', does }
    // The outlines of very many copies would hide what is painted.
    world.stage.setSelection({ ids: new Set(), last: null })
  }

  get title(): string {
    return SAYS[this.does]
  }

  hover(pointer: PointerAt): void {
    this.last = pointer
    this.ring(pointer, this.events.hit(pointer))
  }

  press(pointer: PointerAt): Gesture | null {
    const does = pointer.erases ? ERASES[this.does] : pointer.shift ? OPPOSITE[this.does] : this.does
    if (does === 'put') {
      const hit = this.events.hit(pointer)
      if (hit) this.events.put(hit)
      return null
    }
    return does === 'take' ? this.taking(pointer) : this.painting(does, pointer)
  }

  wheel(delta: number, pointer = this.last): void {
    const factor = delta < 0 ? NOTCH : 1 / NOTCH
    const { radius, strength } = this.events.brush()
    if (pointer?.ctrl) this.set({ radius, strength: strength * factor })
    else this.set({ radius: radius * factor, strength })
  }

  key({ is, down }: KeyPress): boolean {
    const { radius, strength } = this.events.brush()
    const next: Brush | null = is('brushSmaller')
      ? { radius: radius / NOTCH, strength }
      : is('brushLarger')
        ? { radius: radius * NOTCH, strength }
        : is('brushWeaker')
          ? { radius, strength: strength - 0.1 }
          : is('brushStronger')
            ? { radius, strength: strength + 0.1 }
            : null
    if (next && down) this.set(next)
    return next !== null && down
  }

  leave(): void {
    this.world.stage.layer(ScatterOverlay).brush(null)
    this.world.stage.setHovered(null)
    this.world.say(null)
    this.world.stage.requestDraw()
  }

  stop(): void {
    this.leave()
    this.world.stage.setSelection(this.world.selection())
  }

  private set({ radius, strength }: Brush): void {
    this.events.setBrush({
      radius: Math.min(Math.max(radius, 0.01), 1000),
      strength: Math.min(Math.max(strength, 0.05), 1),
    })
    if (this.last) this.hover(this.last)
  }

  private painting(does: 'add' | 'remove' | 'soften', from: PointerAt): Gesture {
    const points: Vec3[] = []
    let hardest = 0
    const add = (pointer: PointerAt) => {
      const hit = this.events.hit(pointer)
      this.ring(pointer, hit, does)
      hardest = Math.max(hardest, pointer.pressure ?? 1)
      const last = points.at(-1)
      if (
        !hit
        || (last
          && Math.hypot(...hit.point.toArray().map((value, k) => value - last[k]!)) < this.events.brush().radius * STEP)
      )
        return
      points.push(hit.point.toArray())
      this.events.show(does, points, this.events.brush().strength * hardest)
    }
    add(from)
    return {
      move: add,
      wheel: delta => this.wheel(delta),
      end: () => {
        if (points.length > 0) this.events.paint(does, points, this.events.brush().strength * hardest)
        else this.events.forget()
      },
      cancel: () => this.events.forget(),
    }
  }

  private taking(from: PointerAt): Gesture {
    const copies = new Set<string>()
    const add = (pointer: PointerAt) => {
      const copy = this.events.copyAt(pointer)
      if (copy) copies.add(copy)
      this.world.stage.setHovered(copy)
      this.say(pointer, `${copies.size} taken away`)
    }
    add(from)
    return {
      move: add,
      end: () => {
        this.world.stage.setHovered(null)
        this.events.take([...copies])
      },
      cancel: () => this.world.stage.setHovered(null),
    }
  }

  private ring(pointer: PointerAt, hit: SurfaceHit | null, does = this.does): void {
    const { stage } = this.world
    const isSingle = does === 'put' || does === 'take'
    stage
      .layer(ScatterOverlay)
      .brush(hit && { point: hit.point, normal: hit.normal, radius: isSingle ? 0.15 : this.events.brush().radius })
    if (does === 'take') stage.setHovered(this.events.copyAt(pointer))
    const { radius, strength } = this.events.brush()
    this.say(
      pointer,
      !hit
        ? 'beside its surfaces'
        : isSingle
          ? ''
          : `${this.world.printLength(radius)} · ${Math.round(strength * 100)} %`,
    )
    stage.requestDraw()
  }

  private say(at: PointerAt, value: string): void {
    const does = at.shift ? OPPOSITE[this.does] : this.does
    this.world.say({
      at,
      title: SAYS[does],
      value,
      notes: [
        'Shift does the opposite',
        ...(does === 'put' || does === 'take' ? [] : ['wheel or , . its radius; Ctrl wheel or < > its strength']),
      ],
    })
  }
}
