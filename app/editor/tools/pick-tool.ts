import { copyOf } from '~~/core/scene/copy-id'
import { Matrix4 } from 'three'
import { clickSequence, clickTarget } from '~~/core/level/tree'
import type { View } from '~/stage/view'
import type { Gesture, PointerAt } from './gesture'
import type { ToolWorld } from './tool-world'

/** How far a press may wander, in pixels, and still be a click. */
export const CLICK_SLACK = 4

export type ThingAt = { id: string; distance: number }

/** Picking by click, again and again on the same spot, and by frame. */
export class PickTool {
  /** Where the pointer rests and how many things in front of what is meant there have been passed over by key. */
  private spot: { at: PointerAt; depth: number } | null = null
  private lastClick: { at: PointerAt; picked: string } | null = null

  constructor(private readonly world: ToolWorld) {}

  /**
   * Everything under the pointer that can be picked, the nearest first; marks, where they can be picked, before the
   * rest.
   */
  thingsAt(pointer: PointerAt): ThingAt[] {
    const { world } = this
    const view = world.stage.viewAt(pointer)
    const marks = world.marksPickable()
      ? world.stage.shown.marks.hits(pointer, view).filter(({ id }) => world.canPick(id))
      : []
    return [
      ...marks,
      ...world
        .index()
        .raycastAll(view.rayAt(pointer), world.canPick)
        .map(({ id, copy, distance }) => ({ id: copy ?? id, distance })),
    ]
  }

  /** What a click would pick; null if nothing. */
  hover(pointer: PointerAt): string | null {
    if (this.spot && near(this.spot.at, pointer) && this.spot.depth > 0)
      return this.fromSequence(this.spot.depth, pointer)
    this.spot = { at: pointer, depth: 0 }
    const { world } = this
    const view = world.stage.viewAt(pointer)
    const mark = world.marksPickable()
      ? world.stage.shown.marks.hits(pointer, view).find(({ id }) => world.canPick(id))
      : undefined
    if (mark) return clickTarget(world.level(), mark.id, world.selection().ids)
    const hit = world.index().raycast(view.rayAt(pointer), world.canPick)
    return hit && clickTarget(world.level(), hit.copy ?? hit.id, world.selection().ids)
  }

  /** Passes over what is meant now to the next thing behind it, round and round. */
  next(): string | null {
    if (!this.spot) return null
    this.spot.depth++
    return this.fromSequence(this.spot.depth, this.spot.at)
  }

  /**
   * A click picks, a drag draws a frame. With Shift it adds, with Ctrl it toggles; on nothing it lets everything go.
   */
  press(from: PointerAt): Gesture {
    const view = this.world.stage.viewAt(from)
    let framing = false
    let latest = from
    let frame = 0
    const finish = () => {
      cancelAnimationFrame(frame)
      this.world.showFrame(null)
    }
    return {
      move: pointer => {
        latest = pointer
        framing ||= Math.hypot(pointer.x - from.x, pointer.y - from.y) > CLICK_SLACK
        if (framing && frame === 0) {
          frame = requestAnimationFrame(() => {
            frame = 0
            this.world.showFrame({
              a: from,
              b: latest,
              rule: ruleOf(from, latest),
              count: this.inFrame(view, from, latest).length,
            })
          })
        }
      },
      end: pointer => {
        finish()
        if (framing) this.pickAll(this.inFrame(view, from, pointer), pointer)
        else this.click(pointer)
      },
      cancel: finish,
    }
  }

  /** Picks what is under the pointer; on the same spot again, what comes next there. */
  click(pointer: PointerAt): void {
    const { world } = this
    const again =
      this.lastClick && near(this.lastClick.at, pointer) && world.selection().last === this.lastClick.picked
        ? this.lastClick
        : null
    let id: string | null
    if (again && !pointer.shift && !pointer.ctrl) {
      const sequence = this.sequence(pointer)
      id = sequence[(sequence.indexOf(again.picked) + 1) % sequence.length] ?? null
    } else {
      id = this.hover(pointer)
    }
    this.lastClick = id === null ? null : { at: pointer, picked: id }
    if (this.spot) this.spot.depth = 0
    this.pickAll(id === null ? [] : [id], pointer)
  }

  private pickAll(ids: string[], { shift, ctrl }: PointerAt): void {
    const { world } = this
    const before = world.selection().ids
    if (ctrl) {
      const toggled = new Set(ids)
      world.pick([...[...before].filter(id => !toggled.has(id)), ...ids.filter(id => !before.has(id))])
    } else if (shift) world.pick([...[...before].filter(id => !ids.includes(id)), ...ids])
    else world.pick(ids)
  }

  private inFrame(view: View, a: PointerAt, b: PointerAt): string[] {
    const { world } = this
    const rule = ruleOf(a, b)
    const projection = new Matrix4().multiplyMatrices(view.camera.projectionMatrix, view.camera.matrixWorldInverse)
    // With one copy picked alone others of its kind are meant.
    const copy = copyOf(world.selection().last ?? '')
    if (copy) return world.index().pickCopiesInFrame(copy.arrangementId, projection, view.frameOf(a, b), rule)
    const found = world.index().pickInFrame(projection, view.frameOf(a, b), rule, world.canPick)
    if (world.marksPickable()) for (const mark of this.marksInFrame(view, a, b)) found.push(mark)
    const nothing = new Set<string>()
    return [...new Set(found.map(id => clickTarget(world.level(), id, nothing)))]
  }

  private marksInFrame(view: View, a: PointerAt, b: PointerAt): string[] {
    return this.world.stage.shown.marks
      .shown()
      .filter(({ id, position }) => {
        const seen = view.project(position.clone())
        return (
          seen !== null
          && this.world.canPick(id)
          && seen.x >= Math.min(a.x, b.x)
          && seen.x <= Math.max(a.x, b.x)
          && seen.y >= Math.min(a.y, b.y)
          && seen.y <= Math.max(a.y, b.y)
        )
      })
      .map(({ id }) => id)
  }

  private sequence(pointer: PointerAt): string[] {
    return clickSequence(
      this.world.level(),
      this.thingsAt(pointer).map(({ id }) => id),
    )
  }

  private fromSequence(depth: number, pointer: PointerAt): string | null {
    const sequence = this.sequence(pointer)
    return sequence.length === 0 ? null : sequence[depth % sequence.length]!
  }
}

/** Drawn downwards a frame takes what it touches, upwards only what is wholly inside. */
function ruleOf(from: PointerAt, to: PointerAt) {
  return to.y >= from.y ? ('touch' as const) : ('inside' as const)
}

function near(a: PointerAt, b: PointerAt): boolean {
  return Math.hypot(a.x - b.x, a.y - b.y) <= CLICK_SLACK
}
