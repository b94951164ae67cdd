import type { LevelAxis } from '~~/core/units/height'
import type { Vector3 } from 'three'
import type { HandleFrame } from '~~/core/edit/handles/handle'
import type { Constraint } from '~~/core/edit/handles/lock'
import type { Aim } from '~~/core/edit/snap/aim'
import type { Operation } from '~~/core/level/schema'
import type { Quantity } from '~~/core/units/quantity'
import type { Wedge } from '~/stage/handles/turn-handles'
import type { Hints } from '~/stage/snap-hints'
import type { GridPlane } from '~/stage/surroundings'
import type { PointerAt } from '../gesture'

/** What a drag has come to. */
export type Outcome = {
  operations: Operation[]
  title: string
  value: string
  notes: string[]
  /** Where the handles go along. */
  frame?: HandleFrame
  hints?: Hints
  wedge?: Wedge
  /** How far the things have moved, for taking the camera along. */
  shift?: Vector3
  /** What it has snapped to that can be kept. */
  caught?: readonly { by: string; id: string | null }[]
}

export type DragField = { label: string; quantity: Quantity; axis?: LevelAxis }

/** One way of changing things by pointer or by numbers, from a press on; made anew when a lock changes. */
export type Drag = {
  update: (aim: Aim, pointer: PointerAt) => Outcome
  /** What can be typed instead. */
  fields: DragField[]
  /** The numbers as they stand. */
  values: () => number[]
  type: (values: number[]) => Outcome
  /** The plane the grid is drawn in meanwhile. */
  plane?: GridPlane
}

export type DragKind = {
  /** "Move", "Turn", "Size": the beginning of the change's label. */
  verb: string
  /** Whether holding Alt at the press leaves an instance behind. */
  leavesInstances: boolean
  /** Takes back what the drag did besides operations, when it is cancelled. */
  restore?: () => void
  make: (lock: Constraint | null, from: { aim: Aim; pointer: PointerAt }) => Drag
}
