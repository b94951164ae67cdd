import { Group, Vector3 } from 'three'
import type { RuleGrip } from '~~/core/arrange/definition'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Handle, HandleChoice, HandleFrame } from '~~/core/edit/handles/handle'
import type { Board } from '../board'
import type { ScreenBox } from '../label-place'
import type { StageLayer } from '../stage-layer'
import type { View } from '../view'
import type { SeenBy } from './enlarged'
import { enlarged } from './enlarged'
import { pinTexture, pivotTexture, redraw, sprite } from './drawings'
import type { HandleSetting, HandleSet } from './handle-set'
import { sameHandle } from './handle-set'
import { MoveHandles } from './move-handles'
import { PivotDots } from './pivot-dots'
import type { IsTaken } from './rule-grips'
import { RuleGrips } from './rule-grips'
import { SizeHandles } from './size-handles'
import type { Wedge } from './turn-handles'
import { TurnHandles } from './turn-handles'

/** Pixels. */
const PIVOT = 9
const PIN = 15
/** From where they stand no handle but those of Size is farther away. */
const FARTHEST = 130

/** What is drawn to take hold of: Move, Turn, Size, all of them, or what edits the pivot. */
export type HandleMode = HandleChoice | 'pivot'

/** All handles of the stage. */
export class Handles implements StageLayer {
  readonly inLevel = null
  readonly over = new Group()
  readonly inPictures = false
  private readonly move = new MoveHandles()
  private readonly turn = new TurnHandles()
  private readonly size = new SizeHandles()
  private readonly dots = new PivotDots()
  private readonly grips = new RuleGrips()
  private readonly pivot = sprite(null, 1, 6)
  private readonly pin = sprite(null, 1, 6)
  private readonly all: HandleSet[] = [this.move, this.turn, this.size, this.dots]
  private mode: HandleMode = 'none'
  private frame: HandleFrame | null = null
  private pinAt: Vector3 | null = null
  private hot: Handle | null = null
  private held = false
  private bars: readonly ScreenBox[] = []
  private sizes = { wanted: 1, finger: 1 }

  constructor() {
    this.pin.center.set(0.5, 0.03)
    this.over.add(...this.all.map(set => set.object), this.grips.object, this.pivot, this.pin)
    this.choose('none')
  }

  setBoard(board: Board): void {
    for (const set of this.all) set.setBoard(board)
    this.grips.setBoard(board)
    redraw(this.pivot, pivotTexture(board.colors.picked))
    redraw(this.pin, pinTexture(board.colors.picked))
  }

  /** How large they are, 1 as they are made; and how much larger for a finger that pointed last. */
  setSize(sizes: { wanted?: number; finger?: number }): void {
    this.sizes = { ...this.sizes, ...sizes }
  }

  private get pixels(): number {
    return this.sizes.wanted * this.sizes.finger
  }

  choose(mode: HandleMode): void {
    this.mode = mode
    this.move.scale = mode === 'all' ? 0.72 : 1
  }

  /** Shows the handles somewhere, or hides them. */
  place(frame: HandleFrame | null): void {
    this.frame = frame
  }

  /** Shows the pin at a point of the world, or hides it. */
  setPin(at: Vector3 | null): void {
    this.pinAt = at
  }

  /** Shows what a rule can be taken hold of by, at places of the world. */
  setGrips(grips: readonly RuleGrip[]): void {
    this.grips.set(grips)
  }

  /** How far on the screen from its place a handle is drawn, in pixels: one that others were in the way of. */
  asideOf(handle: Handle, view: View): ScreenPoint {
    if (handle.do !== 'grip') return { x: 0, y: 0 }
    const seen = enlarged(view, this.pixels)
    const aside = this.grips.asideOf(handle.index, seen, this.takenIn(this.settingFor(seen)))
    return { x: aside.x * this.pixels, y: aside.y * this.pixels }
  }

  /** Where bars lie over the stage: nothing can be taken hold of there. */
  setBars(bars: readonly ScreenBox[]): void {
    this.bars = bars
  }

  /** What is under the pointer or held. */
  get lit(): Handle | null {
    return this.hot
  }

  setTurnStep(degrees: number): void {
    this.turn.setStep(degrees)
  }

  setWedge(wedge: Wedge | null): void {
    this.turn.setWedge(wedge)
  }

  /** Lights up one handle; `held` while it is dragged. @returns whether that changes anything */
  light(handle: Handle | null, held = false): boolean {
    const changed = this.held !== held || !sameHandle(this.hot, handle)
    this.hot = handle
    this.held = held
    return changed
  }

  get isShown(): boolean {
    return (this.frame !== null && this.mode !== 'none') || this.pinAt !== null || this.grips.isShown
  }

  /** Fits all that is shown to a view. */
  update(of: View): void {
    const view = enlarged(of, this.pixels)
    const setting = this.settingFor(view)
    for (const set of this.all) set.object.visible = false
    if (setting) this.fit(setting)
    this.pivot.visible = setting !== null && this.mode !== 'none' && this.mode !== 'move'
    if (this.frame) this.mark(this.pivot, this.frame.origin, PIVOT, view)
    this.grips.update(view, this.hot, this.takenIn(setting))
    this.pin.visible = this.pinAt !== null
    if (this.pinAt) this.mark(this.pin, this.pinAt, PIN, view)
  }

  /** The handle under a pixel, those that are hardest to hit first. */
  hit(pixel: ScreenPoint, of: View): Handle | null {
    const view = enlarged(of, this.pixels)
    const at = { x: pixel.x / this.pixels, y: pixel.y / this.pixels }
    const setting = this.settingFor(view)
    if (setting) this.fit(setting)
    const rule = this.grips.hit(at, view, this.takenIn(setting))
    if (rule) return rule
    if (!setting) return null
    for (const set of this.shownSets()) {
      const found = set.hit(at, setting)
      if (found) return found
    }
    return null
  }

  /** Where a handle can be taken hold of, for automation. */
  grip(handle: Handle, of: View): ScreenPoint | null {
    const found = this.gripIn(handle, enlarged(of, this.pixels))
    return found && { x: found.x * this.pixels, y: found.y * this.pixels }
  }

  private gripIn(handle: Handle, view: SeenBy): ScreenPoint | null {
    const setting = this.settingFor(view)
    if (setting) this.fit(setting)
    if (handle.do === 'grip') return this.grips.grip(handle, view, this.takenIn(setting))
    if (!setting) return null
    for (const set of this.shownSets()) {
      const found = set.grip(handle, setting)
      if (found) return found
    }
    return null
  }

  dispose(): void {
    for (const set of this.all) set.dispose()
    this.grips.dispose()
    for (const each of [this.pivot, this.pin]) {
      each.material.map?.dispose()
      each.material.dispose()
    }
  }

  private shownSets(): HandleSet[] {
    switch (this.mode) {
      case 'none':
        return []
      case 'move':
        return [this.move]
      case 'turn':
        return [this.turn]
      case 'size':
        return [this.size]
      case 'all':
        return [this.size, this.move, this.turn]
      case 'pivot':
        return [this.dots, this.move]
    }
  }

  private fit(setting: HandleSetting): void {
    for (const set of this.shownSets()) {
      set.object.visible = true
      set.update(setting)
    }
  }

  /** Whether a pixel of a pane is a handle's or a bar's. */
  private takenIn(setting: HandleSetting | null): IsTaken {
    const sets = this.shownSets()
    const around = setting && setting.view.boxAround([setting.frame.origin], FARTHEST)
    const isNear = (at: ScreenPoint) =>
      (around !== null && isIn(around, at)) || (setting?.frame.box !== null && sets.includes(this.size))
    const size = this.pixels
    return at =>
      this.bars.some(bar => isIn(bar, { x: at.x * size, y: at.y * size }))
      || (setting !== null && isNear(at) && sets.some(set => set.hit(at, setting) !== null))
  }

  /** The part of a pane around where the handles stand; null if none are shown. */
  around(view: View): ScreenBox | null {
    return this.settingFor(view) && view.boxAround([this.frame!.origin], FARTHEST * this.pixels)
  }

  private settingFor(view: SeenBy): HandleSetting | null {
    if (!this.frame || this.mode === 'none') return null
    return {
      frame: this.frame,
      view,
      pixel: view.metresPerPixel(this.frame.origin),
      sight: view.sightOf(this.frame.origin),
      hot: this.hot,
      held: this.held,
    }
  }

  private mark(each: typeof this.pivot, at: Vector3, pixels: number, view: SeenBy): void {
    each.position.copy(at)
    each.scale.setScalar(pixels * 2 * view.metresPerPixel(new Vector3().copy(at)))
  }
}

const isIn = ({ left, right, top, bottom }: ScreenBox, { x, y }: ScreenPoint) =>
  x >= left && x <= right && y >= top && y <= bottom
