import type { Gesture, PointerAt, ToolWorld } from './gesture'
import { dragMove } from './move-tool'
import { fly, orbitCentre, pointUnder, steer, zoomByWheel } from './navigate'
import type { ThingAt } from './pick-tool'
import { CLICK_SLACK, PickTool } from './pick-tool'
import type { PlaceTool } from './place-tool'

const [LEFT, MIDDLE, RIGHT] = [0, 1, 2]

export type StageInputEvents = {
  onPointer: (at: PointerAt | null) => void
  /** The right button while parts are being placed. */
  onStopPlacing: () => void
  /** A right click that did not turn into a drag, with everything under the pointer. */
  onMenu: (at: PointerAt, things: ThingAt[]) => void
}

/**
 * Turns the pointer's events on the stage into gestures. One gesture runs at a time, from a press to its release;
 * Esc or the right button cancels it.
 */
export class StageInput {
  placing: PlaceTool | null = null
  readonly picking: PickTool
  private gesture: { id: number, button: number, run: Gesture } | null = null
  private hoverFrame = 0
  private lastPointer: PointerAt | null = null
  private readonly listeners = new AbortController()

  constructor(private readonly canvas: HTMLCanvasElement, private readonly world: ToolWorld, private readonly events: StageInputEvents) {
    this.picking = new PickTool(world)
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

  /** A key pressed or let go. @returns whether the running gesture took it */
  key(code: string, down: boolean, ctrl: boolean): boolean {
    if (this.gesture?.run.key?.(code, down)) return true
    this.ctrlChanged(ctrl)
    return false
  }

  /** Goes on to the next thing under the resting pointer. */
  hoverNext(): void {
    this.world.stage.setHovered(this.picking.next())
  }

  pointerOf(event: MouseEvent): PointerAt {
    const box = this.canvas.getBoundingClientRect()
    return { x: event.clientX - box.left, y: event.clientY - box.top, ctrl: event.ctrlKey || event.metaKey, shift: event.shiftKey, alt: event.altKey }
  }

  dispose(): void {
    this.cancel()
    this.listeners.abort()
    cancelAnimationFrame(this.hoverFrame)
  }

  /** Ctrl changes what a drag does also while the pointer rests. */
  private ctrlChanged(ctrl: boolean): void {
    if (!this.lastPointer || this.lastPointer.ctrl === ctrl) return
    this.lastPointer = { ...this.lastPointer, ctrl }
    if (this.gesture) this.gesture.run.move(this.lastPointer)
    else this.placing?.hover(this.lastPointer)
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
    const view = this.world.stage.viewAt(pointer)
    if (event.button === MIDDLE || (event.button === LEFT && event.altKey && event.shiftKey)) {
      const at = pointUnder(this.world, view, pointer)
      return steer(pointer, (dx, dy) => view.pan(dx, dy, at))
    }
    if (event.button === RIGHT) return this.rightGesture(pointer)
    if (event.button !== LEFT) return null
    if (event.altKey) {
      const centre = orbitCentre(this.world, view, pointer)
      return steer(pointer, (dx, dy) => view.orbit(dx, dy, centre))
    }
    if (this.placing) {
      this.placing.put(pointer)
      return null
    }
    const handle = this.world.stage.handles.hit(pointer, view)
    if (!handle) return this.picking.press(pointer)
    // A press on a handle that is let go on the spot means what is under it.
    return this.unlessClick(dragMove(this.world, handle, pointer), pointer, to => this.picking.click(to))
  }

  private rightGesture(pointer: PointerAt): Gesture | null {
    if (this.placing) {
      this.events.onStopPlacing()
      return null
    }
    const run = fly(this.world, this.world.stage.viewAt(pointer), pointer)
    return this.unlessClick(run, pointer, () => this.events.onMenu(pointer, this.picking.thingsAt(pointer)))
  }

  /** The gesture, unless the press is let go on the spot without any key having meant something; then it was a click. */
  private unlessClick(run: Gesture, from: PointerAt, click: (to: PointerAt) => void): Gesture {
    let begun = false
    return {
      ...run,
      move: (to) => {
        begun ||= Math.hypot(to.x - from.x, to.y - from.y) > CLICK_SLACK
        if (begun) run.move(to)
      },
      key: (code, down) => {
        const taken = run.key?.(code, down) ?? false
        begun ||= taken
        return taken
      },
      end: (to) => {
        if (begun) return run.end(to)
        run.cancel()
        click(to)
      },
    }
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
    const { stage } = this.world
    const view = stage.viewAt(pointer)
    this.events.onPointer(pointer)
    if (this.placing) {
      this.placing.hover(pointer)
      return
    }
    const handle = stage.handles.hit(pointer, view)
    if (stage.handles.light(handle)) stage.requestDraw()
    stage.setHovered(handle ? null : this.picking.hover(pointer))
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
    event.preventDefault()
    const delta = (event.deltaY || event.deltaX) * (event.deltaMode === WheelEvent.DOM_DELTA_LINE ? 33 : 1)
    const pointer = this.pointerOf(event)
    if (this.gesture) this.gesture.run.wheel?.(delta)
    else if (this.placing) this.placing.turn(Math.sign(delta))
    else zoomByWheel(this.world, this.world.stage.viewAt(pointer), pointer, delta)
  }
}
