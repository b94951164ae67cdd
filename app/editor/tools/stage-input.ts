import type { Vector3 } from 'three'
import type { Handle } from '~~/core/edit/handles/handle'
import type { SnapPoint } from '~~/core/edit/snap/vertex'
import { findSnapPoint, SNAP_POINT_NAMES } from '~~/core/edit/snap/vertex'
import { runDrag } from './drags/drag'
import type { ScreenPoint } from '~~/core/math/screen'
import { lockOf } from '../keys/stage-uses'
import type { ViewGesture } from '../pointing/pointing'
import { viewGestureOf } from '../pointing/pointing'
import type { Gesture, Grasp, KeyPress, PointerAt, Readout, StageMode } from './gesture'
import type { ToolWorld } from './tool-world'
import { FINGER_SLACK, Fingers } from './fingers'
import { steerByWheel, steering } from './navigate'
import type { ThingAt } from './pick-tool'
import { CLICK_SLACK, PickTool } from './pick-tool'

const [LEFT, RIGHT, ERASER] = [0, 2, 5]
/** Times as large as for a mouse what a finger takes hold of is: 44 pixels (WCAG 2.2, 2.5.5; 2.5.8 asks for 24). */
const FINGER = 1.8

export type StageInputEvents = {
  onPointer: (at: PointerAt | null) => void
  /** Something that has the stage may have more to keep, or less. */
  onWork: () => void
  /** The right button while a mode has the stage. */
  onStopMode: () => void
  /** A right click that did not turn into a drag, with everything under the pointer. */
  onMenu: (at: PointerAt, things: ThingAt[]) => void
  /** A press with nothing going on: what was being typed is let go of. */
  onPress: () => void
  /** A click on a number drawn on the stage. */
  onNumber: (key: string, at: ScreenPoint) => void
  /** A press on something besides the handles that can be taken hold of; null if it cannot now. */
  onGrasp: (key: string) => Grasp | null
  /** A click on one of the places a pivot can be put to. */
  onPivotPlace: (handle: Handle & { do: 'pivot' }) => void
}

/** A press that only means something as a click. */
const NOTHING: Gesture = { move: () => {}, end: () => {}, cancel: () => {} }

/**
 * Turns the pointer's events on the stage into gestures. One gesture runs at a time, from a press to its release;
 * Esc or the right button cancels it.
 */
export class StageInput {
  /** What has the stage to itself, if anything does. */
  mode: StageMode | null = null
  readonly picking: PickTool
  private gesture: { id: number; button: number; run: Gesture } | null = null
  private hoverFrame = 0
  private readonly fingers: Fingers
  private vertexHeld = false
  /** Whether the readout names a point that could be taken hold of. */
  private saysOfPointer = false
  private lastPointer: PointerAt | null = null
  private readonly listeners = new AbortController()

  constructor(
    readonly canvas: HTMLCanvasElement,
    private readonly world: ToolWorld,
    private readonly events: StageInputEvents,
  ) {
    this.picking = new PickTool(world)
    this.fingers = new Fingers(world, { onRested: at => this.rested(at), onSteer: () => this.cancel() })
    const on = <K extends keyof HTMLElementEventMap>(
      type: K,
      listener: (event: HTMLElementEventMap[K]) => void,
      passive = true,
    ) => canvas.addEventListener(type, listener, { signal: this.listeners.signal, passive })
    on('pointerdown', event => this.press(event))
    on('pointermove', event => this.move(event))
    on('pointerup', event => this.release(event))
    on('pointercancel', event => this.fingers.lift(event.pointerId) || this.cancel())
    on('lostpointercapture', event => this.lost(event))
    on('pointerleave', () => this.leave())
    on('contextmenu', event => event.preventDefault(), false)
    // A finger that is lifted is no click besides: that would close the menu it has just opened.
    on('touchend', event => event.cancelable && event.preventDefault(), false)
    // Further buttons go back and forth between pages, unless they steer the view.
    for (const type of ['mousedown', 'mouseup'] as const)
      on(
        type,
        event => {
          if (event.button > RIGHT && viewGestureOf(this.world.pointing(), event)) event.preventDefault()
        },
        false,
      )
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

  /** A key pressed or let go. @returns whether the running gesture or mode took it */
  key(press: KeyPress, ctrl: boolean): boolean {
    if (press.is('vertex') && !ctrl) this.holdVertex(press.down)
    const taken = this.gesture?.run.key?.(press) ?? this.mode?.key?.(press)
    if (this.mode) this.events.onWork()
    if (taken) return true
    this.ctrlChanged(ctrl)
    return press.down && this.lockNext(press)
  }

  /** A lock key before a drag: it holds for the next one, wherever on the stage that begins. */
  private lockNext({ isOnPage }: KeyPress): boolean {
    const lock =
      this.gesture || this.mode || this.world.selection().ids.size === 0 ? null : lockOf(isOnPage, this.world.axes())
    if (lock) this.world.setLock(lock.kind === 'view' ? null : lock)
    return lock !== null
  }

  /** Opens the form for typing a change of what is picked, without a drag. */
  typeNumbers(): void {
    const from = this.pointerOrMiddle()
    const kind = this.gesture || this.mode ? null : this.world.startDrag(null, from)
    if (kind) this.gesture = { id: -1, button: LEFT, run: runDrag(this.world, kind, from, 'type') }
  }

  /** Where the pointer is over the stage, or the middle of its view. */
  pointerOrMiddle(): PointerAt {
    return this.lastPointer ?? this.middle()
  }

  /** Drops the gesture that runs, which has ended by itself. */
  gestureDone(): void {
    this.gesture = null
  }

  /** What is under the resting pointer is other than it was. */
  hoverAgain(): void {
    if (this.lastPointer) this.hover()
  }

  /** Goes on to the next thing under the resting pointer. */
  hoverNext(): void {
    this.world.stage.setHovered(this.picking.next())
  }

  pointerOf(event: MouseEvent): PointerAt {
    const box = this.canvas.getBoundingClientRect()
    const pen = event instanceof PointerEvent && event.pointerType === 'pen' ? { pressure: event.pressure } : {}
    return {
      x: event.clientX - box.left,
      y: event.clientY - box.top,
      ctrl: event.ctrlKey || event.metaKey,
      shift: event.shiftKey,
      alt: event.altKey,
      ...pen,
    }
  }

  dispose(): void {
    this.cancel()
    this.fingers.dispose()
    this.world.coasting.end()
    this.listeners.abort()
    cancelAnimationFrame(this.hoverFrame)
  }

  /** Ctrl changes what a drag does also while the pointer rests. */
  private ctrlChanged(ctrl: boolean): void {
    if (!this.lastPointer || this.lastPointer.ctrl === ctrl) return
    this.lastPointer = { ...this.lastPointer, ctrl }
    if (this.gesture) this.gesture.run.move(this.lastPointer)
    else this.mode?.hover(this.lastPointer)
  }

  private press(event: PointerEvent): void {
    this.world.stage.handles.setSize({ finger: event.pointerType === 'touch' ? FINGER : 1 })
    this.world.coasting.end()
    if (event.pointerType === 'touch' && this.putDown(event))
      return // Taking the focus off a field commits what was typed there before the press does anything.
    ;(globalThis.document.activeElement as HTMLElement | null)?.blur()
    if (this.gesture) {
      if (event.button === RIGHT) this.cancel()
      return
    }
    this.events.onPress()
    const run = this.gestureFor(event)
    if (!run) return
    this.canvas.setPointerCapture(event.pointerId)
    this.gesture = { id: event.pointerId, button: event.button, run }
  }

  /** A finger that rests asks what can be done, as a click with the right button does. */
  private rested(at: PointerAt): void {
    if (this.gesture?.run.goesOn?.()) return
    this.cancel()
    if (this.mode) this.events.onStopMode()
    else this.events.onMenu(at, this.picking.thingsAt(at))
  }

  /** A finger comes down. @returns whether it steers the view, with others */
  private putDown(event: PointerEvent): boolean {
    const at = this.pointerOf(event)
    if (this.fingers.putDown(event.pointerId, at)) {
      this.canvas.setPointerCapture(event.pointerId)
      return true
    }
    // Nothing has hovered before a finger: what is meant is what is under it now.
    this.lastPointer = at
    this.mode?.hover(at)
    return false
  }

  private gestureFor(event: PointerEvent): Gesture | null {
    const pointer = this.pointerOf(event)
    const view = this.world.stage.viewAt(pointer)
    const steered = viewGestureOf(this.world.pointing(), event)
    // The other end of a pen paints as well, the other way.
    if (event.button === ERASER && this.mode) return this.mode.press({ ...pointer, erases: true })
    if (event.button !== LEFT) return this.otherButton(event, pointer, steered)
    if (steered === 'pan') return steering(this.world, steered, pointer)
    const number = this.world.stage.numberAt(pointer, view)
    if (number && !event.altKey)
      return this.unlessClick(NOTHING, pointer, () => this.events.onNumber(number.key, number.at))
    const handle = this.mode ? null : this.world.stage.handles.hit(pointer, view)
    // The handles of what is picked go first.
    const key = this.mode || event.altKey || handle ? null : this.world.stage.graspAt(pointer, view)
    const grasp = key === null ? null : this.events.onGrasp(key)
    if (grasp) return this.unlessClick(grasp.drag, pointer, grasp.click)
    if (steered && !handle) return steering(this.world, steered, pointer)
    if (this.mode) {
      const run = this.mode.press(pointer)
      this.events.onWork()
      return run
    }
    const source = this.vertexSource(pointer, handle)
    return this.dragGesture(source ? null : handle, pointer, source?.point) ?? this.picking.press(pointer)
  }

  /** A drag of a handle, of a point caught by vertex snap, or with a lock of whatever is picked. */
  private dragGesture(handle: Handle | null, pointer: PointerAt, source?: Vector3): Gesture | null {
    if (!handle && !source && !this.world.lock()) return null
    const kind = this.world.startDrag(handle, pointer, source)
    if (!kind) return null
    // What is drawn aside of its place is dragged as if it were taken hold of there.
    const aside = handle ? this.world.stage.handles.asideOf(handle, this.world.stage.viewAt(pointer)) : { x: 0, y: 0 }
    const atPlace = (at: PointerAt): PointerAt => ({ ...at, x: at.x - aside.x, y: at.y - aside.y })
    const run = runDrag(this.world, kind, atPlace(pointer))
    this.world.stage.handles.light(handle, true)
    const inPlace: Gesture = { ...run, move: to => run.move(atPlace(to)), end: to => run.end(atPlace(to)) }
    // A press that is let go on the spot means what is under it.
    return this.unlessClick(inPlace, pointer, to => this.clickOnHandle(handle, to))
  }

  private clickOnHandle(handle: Handle | null, to: PointerAt): void {
    if (handle?.do === 'pivot') this.events.onPivotPlace(handle)
    else this.picking.click(to)
  }

  /** The point of something picked that vertex snap would take hold of; with its key held it goes before a handle. */
  private vertexSource(pointer: PointerAt, handle: Handle | null): SnapPoint | null {
    const { world } = this
    if (handle && !this.vertexHeld) return null
    const { ids } = world.selection()
    const kinds = world.vertexOn() ? world.moveSnaps(false).vertex : null
    if (!kinds || ids.size === 0) return null
    const level = world.level()
    return findSnapPoint(level, world.index(), world.stage.view.aim(pointer), kinds, id =>
      [...ids].some(picked => level.isWithin(id, picked)),
    )
  }

  private holdVertex(held: boolean): void {
    this.vertexHeld = held
    this.world.holdVertex(held)
    if (this.lastPointer && !this.gesture) this.hover()
    else if (this.lastPointer) this.gesture?.run.move(this.lastPointer)
  }

  private middle(): PointerAt {
    const { clientWidth, clientHeight } = this.canvas
    return { x: clientWidth / 2, y: clientHeight / 2, ctrl: false, shift: false, alt: false }
  }

  /** Steers the view; the right button alone ends a tool, and a click with it opens the menu. */
  private otherButton(event: PointerEvent, pointer: PointerAt, steered: ViewGesture | null): Gesture | null {
    const isMenu = event.button === RIGHT && !event.altKey && !event.shiftKey && !event.ctrlKey && !event.metaKey
    if (isMenu && this.mode) {
      this.events.onStopMode()
      return null
    }
    const run = steered ? steering(this.world, steered, pointer) : null
    if (!isMenu) return run
    return this.unlessClick(run ?? NOTHING, pointer, () => this.events.onMenu(pointer, this.picking.thingsAt(pointer)))
  }

  /**
   * The gesture, unless the press is let go on the spot without any key having meant something; then it was a click.
   */
  private unlessClick(run: Gesture, from: PointerAt, click: (to: PointerAt) => void): Gesture {
    let begun = false
    return {
      ...run,
      move: to => {
        begun ||= Math.hypot(to.x - from.x, to.y - from.y) > this.slack
        if (begun) run.move(to)
      },
      key: press => {
        const taken = run.key?.(press) ?? false
        begun ||= taken
        return taken
      },
      end: to => {
        if (begun) return run.end(to)
        run.cancel()
        click(to)
      },
    }
  }

  /** Pixels that a press may wander and still be a click. */
  private get slack(): number {
    return this.fingers.areDown ? FINGER_SLACK : CLICK_SLACK
  }

  private move(event: PointerEvent): void {
    if (this.fingers.slide(event.pointerId, this.pointerOf(event))) return
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
    if (this.mode) {
      this.mode.hover(pointer)
      this.events.onWork()
      return
    }
    const handle = stage.handles.hit(pointer, view)
    if (stage.handles.light(handle)) stage.requestOverlay()
    const isNumber = stage.numberAt(pointer, view) !== null
    if (isNumber || (!handle && stage.graspAt(pointer, view) !== null)) {
      stage.setHovered(null)
      stage.hint(null)
      this.sayAt(null)
      this.canvas.style.cursor = isNumber ? 'text' : 'grab'
      return
    }
    const source = this.vertexSource(pointer, handle)
    stage.hint(source && { source: source.point })
    const hovered = handle || source ? null : this.picking.hover(pointer)
    this.sayAt(source ? this.nameOf(source, pointer) : hovered === null ? null : this.handOn(hovered, pointer))
    stage.setHovered(hovered)
    this.canvas.style.cursor = handle || source ? 'grab' : ''
  }

  /** Says something of what is under the pointer, or nothing any more. */
  private sayAt(readout: Readout | null): void {
    if (!readout && !this.saysOfPointer) return
    this.saysOfPointer = readout !== null
    this.world.say(readout)
  }

  /** Which point a press would take hold of. */
  private nameOf(source: SnapPoint, at: PointerAt): Readout {
    return {
      at,
      title: 'Vertex snap',
      value: `${SNAP_POINT_NAMES[source.kind]} of ${this.world.level().need(source.id).name}`,
      notes: ['drag it onto a point of something else'],
    }
  }

  /** Whose hand is on a thing already; null if nobody's. */
  private handOn(id: string, at: PointerAt): Readout | null {
    const hand = this.world.handOn(id)
    if (!hand) return null
    const note = hand.does === 'moves' ? 'what is let go of last stays' : 'you are asked before you change it'
    return { at, title: hand.name, value: `${hand.does} this`, notes: [note] }
  }

  private release(event: PointerEvent): void {
    if (this.fingers.lift(event.pointerId)) return
    if (!this.gesture || event.pointerId !== this.gesture.id || event.button !== this.gesture.button) return
    const { run } = this.gesture
    if (run.goesOn?.()) return
    this.gesture = null
    run.end(this.pointerOf(event))
    if (this.mode) this.events.onWork()
  }

  private lost(event: PointerEvent): void {
    if (this.gesture?.id === event.pointerId && event.buttons === 0 && !this.gesture.run.goesOn?.()) this.cancel()
  }

  private leave(): void {
    if (this.gesture) return
    this.lastPointer = null
    this.sayAt(null)
    this.mode?.leave()
    this.world.stage.setHovered(null)
    this.events.onPointer(null)
  }

  private wheel(event: WheelEvent): void {
    event.preventDefault()
    this.world.coasting.end()
    const scale = event.deltaMode === WheelEvent.DOM_DELTA_LINE ? 33 : 1
    const [dx, dy] = [event.deltaX * scale, event.deltaY * scale]
    const delta = dy || dx
    const pointer = this.pointerOf(event)
    if (this.gesture) this.gesture.run.wheel?.(delta)
    else if (this.mode?.wheel) this.mode.wheel(delta, pointer)
    else steerByWheel(this.world, this.world.stage.viewAt(pointer), pointer, { dx, dy, isPinch: event.ctrlKey })
  }
}
