import type { Pointing } from '../pointing/pointing'
import type { Finder } from '~~/core/scene/finder'
import type { LevelIndex } from '~~/core/scene/level-index'
import type { Solid } from '~~/core/mesh/solid'
import type { Handle, HandleFrame } from '~~/core/edit/handles/handle'
import type { Constraint } from '~~/core/edit/handles/lock'
import type { LevelView } from '~~/core/scene/level-view'
import type { Copied } from '~~/core/level/copied'
import type { DuplicateAs } from '~~/core/edit/duplicate'
import type { Operation } from '~~/core/level/schema'
import type { Vec3 } from '~~/core/math/vectors'
import type { WrittenAxes } from '~~/core/units/height'
import type { GridStep } from '~~/core/edit/snap/grid'
import type { SteepSide } from '~~/core/edit/snap/beside'
import type { SocketsOf } from '~~/core/edit/snap/sockets'
import type { MoveSnaps } from '~~/core/edit/snap/snap-move'
import type { Vector3 } from 'three'
import type { Selection } from '~/stage/outlined'
import type { Stage } from '~/stage/stage'
import type { DragKind } from './drags/drag-kind'
import type { Coasting } from './coasting'
import type { PointerAt, PickFrame, Readout, TypedNumbers } from './gesture'

/** Originals and duplicates, in the same order. */
export type Duplicated = { from: readonly string[]; to: readonly string[] }

/** What of snapping can be switched and stepped. */
export type StepKind = 'grid' | 'turn' | 'size'

/** What a drag has caught that can be kept: of which things, and under which name they were dragged. */
export type Caught = {
  ids: readonly string[]
  by: readonly { by: string; id: string | null }[]
  joins: string
}

/** What tools need of the editor around them. */
export type ToolWorld = {
  stage: Stage
  level: () => LevelView
  index: () => LevelIndex
  /** What things are snapped to and rest on: those of the level, and of one around it. */
  finder: () => Finder
  /** What a thing is called, also one of the level around. */
  nameOf: (id: string) => string
  /** The mesh a shape names, as `Level.shapeOf` does. */
  solid: (shape: string) => Solid | undefined
  selection: () => Selection
  pick: (ids: Iterable<string>) => void
  /**
   * @param joins undone together with what is done under the same name right after
   * @param copied what it copies
   */
  change: (label: string, operations: Operation[], joins?: string, copied?: Copied) => boolean
  /** Whether what is put down is kept on what it is put on. */
  keepsPlaced: () => boolean
  /** Whether what has met in a drag is kept by itself. */
  keepsAbutting: () => boolean
  /** Keeps things by what a drag has caught. */
  keep: (caught: Caught) => void
  /** Shows what operations would do, on the stage and in the ledger, without doing it; null ends that. */
  preview: (operations: readonly Operation[] | null) => void
  /** What becomes of what is kept by what is shown, in a few words. */
  sayKept: () => string[]
  /** Where the handles of what is picked stand; null if nothing is, or it is locked. */
  frame: () => HandleFrame | null
  /** What a drag leaves behind with Alt. */
  duplicateAs: () => DuplicateAs
  /** Says what was left behind of what, in the same order, so that the same step can be made once more. */
  duplicated: (pairs: Duplicated) => void
  /** The point things turn and grow around: null means each its own. */
  around: () => Vec3 | null
  /** The step in force; its size is 0 while it is off. @param inverted while Ctrl is held */
  step: (kind: StepKind, inverted: boolean) => GridStep
  moveSnaps: (inverted: boolean) => MoveSnaps
  isGround: (id: string) => boolean
  /** The sockets of a mesh, for ends to click together; null while they do not. @param inverted while Ctrl is held */
  sockets: (inverted: boolean) => SocketsOf | null
  isLeaning: () => boolean
  /** What a thing does that is put onto a steep side. */
  steepSide: () => SteepSide
  /** Along what a drag is locked, before and during it. */
  lock: () => Constraint | null
  setLock: (lock: Constraint | null) => void
  /** Whether vertex snap is on, by its switch or its key. */
  vertexOn: () => boolean
  holdVertex: (held: boolean) => void
  /** What a press on a handle, or with a lock anywhere, starts; null if nothing can be dragged. */
  startDrag: (handle: Handle | null, from: PointerAt, source?: Vector3) => DragKind | null
  printLength: (metres: number, signed?: boolean) => string
  /** What lets the view go on, and for how many seconds; 0 for not at all. */
  coasting: Coasting
  coasts: () => number
  /** How axes are written. */
  axes: () => WrittenAxes
  printAngle: (degrees: number, signed?: boolean) => string
  say: (readout: Readout | null) => void
  /** Who else moves a thing right now, or what it hangs from, or has reserved it; null if nobody. */
  handOn: (id: string) => { name: string; does: 'moves' | 'has reserved' } | null
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
  pointing: () => Pointing
  flySpeed: () => number
  setFlySpeed: (speed: number) => void
}
