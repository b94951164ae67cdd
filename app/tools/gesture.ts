import type { FrameRule } from '~~/core/geometry/frame'
import type { LevelIndex } from '~~/core/geometry/level-index'
import type { ScreenPoint } from '~~/core/geometry/screen'
import type { Solid } from '~~/core/geometry/solid'
import type { Handle, HandleFrame } from '~~/core/handles/handle'
import type { Constraint } from '~~/core/handles/lock'
import type { PivotMode } from '~~/core/handles/pivot'
import type { LevelDocument } from '~~/core/level/document'
import type { DuplicateAs } from '~~/core/level/duplicate'
import type { Operation, Vec3 } from '~~/core/level/schema'
import type { GridFrame, Step } from '~~/core/snap/grid'
import type { MoveSnaps } from '~~/core/snap/snap-move'
import type { Quantity } from '~~/core/units/quantity'
import type { Vector3 } from 'three'
import type { Selection, Stage } from '../stage/stage'
import type { DragKind } from './drags/drag'

/** A pointer on the stage, in pixels from the stage's top left, with the keys held. */
export type PointerAt = ScreenPoint & { ctrl: boolean, shift: boolean, alt: boolean }

/** A key pressed or let go: its place on the keyboard, and what it writes. */
export type KeyPress = { code: string, key: string, shift: boolean, down: boolean }

/** What happens between a press and a release. `cancel` leaves everything as it was at the press. */
export type Gesture = {
  move: (pointer: PointerAt) => void
  end: (pointer: PointerAt) => void
  cancel: () => void
  /** @returns whether the key meant something */
  key?: (press: KeyPress) => boolean
  wheel?: (delta: number) => void
  /** True while a release of the button does not end it, because numbers are being typed. */
  goesOn?: () => boolean
}

/** A tool that has the stage to itself until it is stopped. */
export type StageMode = {
  /** What is going on, for saying so. */
  readonly title: string
  hover: (pointer: PointerAt) => void
  press: (pointer: PointerAt) => Gesture | null
  leave: () => void
  stop: () => void
  wheel?: (delta: number) => void
  /** @returns whether the key meant something */
  key?: (press: KeyPress) => boolean
}

/** The frame drawn to pick with, on the canvas. */
export type PickFrame = { a: ScreenPoint, b: ScreenPoint, rule: FrameRule, count: number }

/** What is said at the pointer: what is happening, by how much, and what it snapped to. */
export type Readout = { at: ScreenPoint, title: string, value: string, notes: string[] }

/** Numbers to be typed at the pointer instead of dragging on. */
export type TypedNumbers = {
  at: ScreenPoint
  title: string
  fields: { label: string, quantity: Quantity, value: number, axis?: number }[]
  change: (values: number[]) => void
  commit: () => void
  cancel: () => void
}

/** What of snapping can be switched and stepped. */
export type StepKind = 'grid' | 'turn' | 'size'

/** What tools need of the editor around them. */
export type ToolWorld = {
  stage: Stage
  document: () => LevelDocument
  index: () => LevelIndex
  /** The mesh a shape names, as `LevelDocument.shapeOf` does. */
  solid: (shape: string) => Solid | undefined
  selection: () => Selection
  pick: (ids: Iterable<string>) => void
  change: (label: string, operations: Operation[]) => boolean
  /** Shows what operations would do, on the stage and in the ledger, without doing it; null ends that. */
  preview: (operations: readonly Operation[] | null) => void
  /** Where the handles of what is picked stand; null if nothing is, or it is locked. */
  frame: () => HandleFrame | null
  /** What a drag leaves behind with Alt. */
  duplicateAs: () => DuplicateAs
  /** The point things turn and grow around: null means each its own. */
  around: () => Vec3 | null
  pivotMode: () => PivotMode
  /** The step in force; its size is 0 while it is off. @param inverted while Ctrl is held */
  step: (kind: StepKind, inverted: boolean) => Step
  gridFrame: () => GridFrame
  moveSnaps: (inverted: boolean) => MoveSnaps
  isGround: (id: string) => boolean
  isLeaning: () => boolean
  /** Along what a drag is locked, before and during it. */
  lock: () => Constraint | null
  setLock: (lock: Constraint | null) => void
  /** Whether vertex snap is on, by its switch or its key. */
  vertexOn: () => boolean
  holdVertex: (held: boolean) => void
  /** What a press on a handle, or with a lock anywhere, starts; null if nothing can be dragged. */
  startDrag: (handle: Handle | null, from: PointerAt, source?: Vector3) => DragKind | null
  printLength: (metres: number, signed?: boolean) => string
  say: (readout: Readout | null) => void
  /** Lets numbers be typed; null closes the form. */
  ask: (numbers: TypedNumbers | null) => void
  /** Drops the gesture that runs, which has ended by itself. */
  gestureDone: () => void
  /** Whether a thing may be picked now: not locked, and of the kind asked for. */
  canPick: (id: string) => boolean
  /** Whether marks may be picked on the stage. */
  marksPickable: () => boolean
  showFrame: (frame: PickFrame | null) => void
  /** Metres a second while flying. */
  flySpeed: () => number
  setFlySpeed: (speed: number) => void
}
