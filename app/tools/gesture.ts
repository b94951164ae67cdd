import type { Stage } from '../stage/stage'
import type { ScreenPoint } from '~~/core/geometry/screen'
import type { FrameRule } from '~~/core/geometry/frame'
import type { LevelDocument } from '~~/core/level/document'
import type { LevelIndex } from '~~/core/geometry/level-index'
import type { Operation } from '~~/core/level/schema'
import type { Selection } from '../stage/stage'

/** A pointer on the stage, in pixels from the stage's top left, with the keys held. */
export type PointerAt = ScreenPoint & { ctrl: boolean, shift: boolean, alt: boolean }

/** What happens between a press and a release. `cancel` leaves everything as it was at the press. */
export type Gesture = {
  move: (pointer: PointerAt) => void
  end: (pointer: PointerAt) => void
  cancel: () => void
  /** A key pressed or let go meanwhile, by its place on the keyboard. @returns whether it meant something */
  key?: (code: string, down: boolean) => boolean
  wheel?: (delta: number) => void
}

/** The frame drawn to pick with, on the canvas. */
export type PickFrame = { a: ScreenPoint, b: ScreenPoint, rule: FrameRule, count: number }

/** What is said at the pointer: what is happening, by how much, and what it snapped to. */
export type Readout = { at: ScreenPoint, title: string, value: string, notes: string[] }

/** What tools need of the editor around them. */
export type ToolWorld = {
  stage: Stage
  document: () => LevelDocument
  index: () => LevelIndex
  selection: () => Selection
  pick: (ids: Iterable<string>) => void
  change: (label: string, operations: Operation[]) => boolean
  /** The grid step in metres, 0 for none. @param inverted while Ctrl is held */
  gridStep: (inverted: boolean) => number
  /** In degrees. */
  turnStep: () => number
  isLeaning: () => boolean
  printLength: (metres: number, signed?: boolean) => string
  say: (readout: Readout | null) => void
  /** Whether a thing may be picked now: not locked, and of the kind asked for. */
  canPick: (id: string) => boolean
  /** Whether marks may be picked on the stage. */
  marksPickable: () => boolean
  showFrame: (frame: PickFrame | null) => void
  /** Metres a second while flying. */
  flySpeed: () => number
  setFlySpeed: (speed: number) => void
}
