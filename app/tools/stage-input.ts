import { dragMove } from './move-tool'
import type { Gesture, PointerAt, ToolWorld } from './gesture'
import { steer } from './navigate'
import { clickPick, thingAt } from './pick-tool'
import type { PlaceTool } from './place-tool'

const [LEFT, MIDDLE, RIGHT] = [0, 1, 2]

export type StageInputEvents = {
  onPointer: (at: PointerAt | null) => void
  /** The right button, or Esc, while parts are being placed. */
  onStopPlacing: () => void
}

/**
 * Turns the pointer's events on the stage into gestures. One gesture runs at a time, from a press to its release;
 * Esc or the right button cancels it.
 */
export class StageInput {
  placing: PlaceTool | null = null
  private gesture: { id: number, button: number, run: Gesture } | null = null
  private hoverFrame = 0
  private lastPointer: PointerAt | null = null
  private readonly listeners = new AbortController()

  constructor(private readonly canvas: HTMLCanvasElement, private readonly world: ToolWorld, private readonly events: StageInputEvents) {
    const on = <K extends keyof HTMLElementEventMap>(type: K, listener: (event: HTMLElementEventMap[K]) => void, passive = true) =>
      canvas.addEventListener(type, listener, { signal: this.listeners.signal, passive })
    on('pointerdown', event => this.press(event))
    on('pointermove', event => this.move(event))
    on('pointerup', event => this.release(event))
    on('pointercancel', () => this.cancel())
    on('lostpointercapture', event => this.lost(event))
    on('pointerleave', () => this.leave())
    on('contextmenu', event => event.preventDefault(), false)
    on('wheel', event => this.wheel(event), false)
  }

  /** Ends the gesture that runs, leaving everything as it was. @returns whether one ran */
  cancel(): boolean {
    if (!this.gesture) return false
    const { run } = this.gesture
    this.gesture = null
    run.cancel()
    return true
  }

  /** The same for keys that change while the pointer rests, such as Ctrl. */
  keysChanged(ctrl: boolean): void {
    if (!this.lastPointer || this.lastPointer.ctrl === ctrl) return
    this.lastPointer = { ...this.lastPointer, ctrl }
    if (this.gesture) this.gesture.run.move(this.lastPointer)
    else this.placing?.hover(this.lastPointer)
  }

  pointerOf(event: MouseEvent): PointerAt {
    const box = this.canvas.getBoundingClientRect()
    return { x: event.clientX - box.left, y: event.clientY - box.top, ctrl: event.ctrlKey || event.metaKey, shift: event.shiftKey }
  }

  dispose(): void {
    this.cancel()
    this.listeners.abort()
    cancelAnimationFrame(this.hoverFrame)
  }

  private press(event: PointerEvent): void {
    // Taking the focus off a field commits what was typed there before the press does anything.
    (globalThis.document.activeElement as HTMLElement | null)?.blur()
    if (this.gesture) {
      if (event.button === RIGHT) this.cancel()
      return
    }
    const run = this.gestureFor(event)
    if (!run) return
    this.canvas.setPointerCapture(event.pointerId)
    this.gesture = { id: event.pointerId, button: event.button, run }
  }

  private gestureFor(event: PointerEvent): Gesture | null {
    const pointer = this.pointerOf(event)
    const { view, handles } = this.world.stage
    if (event.button === MIDDLE) return steer(pointer, (dx, dy) => view.pan(dx, dy))
    if (event.button === RIGHT) {
      if (this.placing) {
        this.events.onStopPlacing()
        return null
      }
      return steer(pointer, (dx, dy) => view.lookAround(dx, dy))
    }
    if (event.button !== LEFT) return null
    if (event.altKey) return steer(pointer, (dx, dy) => view.orbit(dx, dy))
    if (this.placing) {
      this.placing.put(pointer)
      return null
    }
    const handle = handles.hit(pointer, view)
    return handle ? dragMove(this.world, handle, pointer) : clickPick(this.world, pointer)
  }

  private move(event: PointerEvent): void {
    this.lastPointer = this.pointerOf(event)
    if (this.gesture) {
      // A further button pressed during a drag comes as a move.
      if ((event.buttons & 2) !== 0 && this.gesture.button !== RIGHT) this.cancel()
      else if (event.pointerId === this.gesture.id) this.gesture.run.move(this.lastPointer)
      return
    }
    if (this.hoverFrame === 0) this.hoverFrame = requestAnimationFrame(() => this.hover())
  }

  private hover(): void {
    this.hoverFrame = 0
    const pointer = this.lastPointer
    if (!pointer || this.gesture) return
    this.events.onPointer(pointer)
    const { stage } = this.world
    if (this.placing) {
      this.placing.hover(pointer)
      return
    }
    const handle = stage.handles.hit(pointer, stage.view)
    stage.handles.light(handle)
    stage.setHovered(handle ? null : thingAt(this.world, pointer))
    stage.requestDraw()
    this.canvas.style.cursor = handle ? 'grab' : ''
  }

  private release(event: PointerEvent): void {
    if (!this.gesture || event.pointerId !== this.gesture.id || event.button !== this.gesture.button) return
    const { run } = this.gesture
    this.gesture = null
    run.end(this.pointerOf(event))
  }

  private lost(event: PointerEvent): void {
    if (this.gesture?.id === event.pointerId && event.buttons === 0) this.cancel()
  }

  private leave(): void {
    if (this.gesture) return
    this.lastPointer = null
    this.placing?.leave()
    this.world.stage.setHovered(null)
    this.events.onPointer(null)
  }

  private wheel(event: WheelEvent): void {
    if (!this.placing) return
    event.preventDefault()
    this.placing.turn(Math.sign(event.deltaY || event.deltaX))
  }
}
