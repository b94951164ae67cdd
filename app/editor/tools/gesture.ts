import type { FrameRule } from '~~/core/mesh/frame'
import type { ScreenPoint } from '~~/core/math/screen'
import type { ScreenBox } from '~/stage/label-place'
import type { StageUse } from '../keys/stage-uses'
import type { LevelAxis } from '~~/core/units/height'
import type { ToolId } from './tool-id'
import type { Quantity } from '~~/core/units/quantity'

/** A pointer on the stage, in pixels from the stage's top left, with the keys held. */
export type PointerAt = ScreenPoint & {
  ctrl: boolean
  shift: boolean
  alt: boolean
  /** Of a pen, from 0 to 1. */
  pressure?: number
  /** The other end of a pen: what it paints over goes. */
  erases?: boolean
}

/** Something that a press takes hold of: what a drag of it does, and a click. */
export type Grasp = { drag: Gesture; click: (at: PointerAt) => void }

/**
 * A key pressed or let go, by what it means: to a gesture or tool that hears it, whatever modifiers are held besides,
 * or while nothing is going on.
 */
export type KeyPress = { is: (use: StageUse) => boolean; isOnPage: (use: StageUse) => boolean; down: boolean }

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

/**
 * What somebody has begun with a tool and not finished: Done keeps it, Drop drops it, and it can be brought back after
 * that.
 */
export type ModeWork = {
  /** What it is, in words: "the path of 3 points". */
  what: string
  /** Keeps it as it is; null while it is not enough. */
  keep: (() => void) | null
  /** Lets go of it; the tool stays. */
  drop: () => void
  /** Begins where it was dropped. The tool has the stage again. */
  resume: () => void
}

/** A tool that has the stage to itself until it is stopped. */
export type StageMode = {
  readonly id: ToolId
  /** What is going on, for saying so. */
  readonly title: string
  hover: (pointer: PointerAt) => void
  press: (pointer: PointerAt) => Gesture | null
  leave: () => void
  /** Lets go of what was begun, and of the stage. */
  stop: () => void
  /** What has been begun; null or left out if that is nothing. */
  work?: () => ModeWork | null
  wheel?: (delta: number, pointer: PointerAt) => void
  /** @returns whether the key meant something */
  key?: (press: KeyPress) => boolean
  /** Keys that mean nothing to it mean nothing at all, but for what ends it. */
  readonly hearsAll?: true
  /** Something that was dragged here from beside the stage is let go of. */
  letGo?: (pointer: PointerAt) => void
  /** Something in the level was written. */
  levelChanged?: () => void
}

/** The frame drawn to pick with, on the canvas. */
export type PickFrame = { a: ScreenPoint; b: ScreenPoint; rule: FrameRule; count: number }

/** What is said at the pointer: what is happening, by how much, and what it snapped to. */
export type Readout = {
  at: ScreenPoint
  title: string
  value: string
  notes: string[]
  /** What it has to leave in sight. */
  avoid?: readonly ScreenBox[]
}

/** Numbers to be typed at the pointer instead of dragging on. */
export type TypedNumbers = {
  at: ScreenPoint
  title: string
  fields: { label: string; quantity: Quantity; value: number; axis?: LevelAxis; isAmount?: true }[]
  /** What the form has to leave in sight. */
  avoid?: readonly ScreenBox[]
  /** What comes of the numbers, in words; or why none can be typed, where there are no fields. */
  says?: () => string | null
  /** What can be chosen besides: the options by their names. */
  choices?: { label: string; options: readonly string[]; chosen: number; choose: (option: number) => void }[]
  /** Says what is wrong with them, or nothing; what is wrong is not shown and not taken. */
  check?: (values: number[]) => string | null
  change: (values: number[]) => void
  commit: () => void
  cancel: () => void
}
