import type { Object3D, Vector3 } from 'three'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Handle, HandleFrame } from '~~/core/edit/handles/handle'
import type { Board } from '../board'
import type { SeenBy } from './enlarged'

/** What handles need to know to be drawn in a pane or found there. */
export type HandleSetting = {
  frame: HandleFrame
  view: SeenBy
  /** Metres a pixel spans where the handles stand. */
  pixel: number
  /** From the viewer to where they stand, of unit length. */
  sight: Vector3
  hot: Handle | null
  /** While one is dragged the handles do not change sides. */
  held: boolean
}

/** The handles of one kind of change. `object` stands in the world as it is. */
export type HandleSet = {
  readonly object: Object3D
  setBoard: (board: Board) => void
  /** Fits them to a pane, for drawing them or finding them there; each pane sees other sides. */
  update: (setting: HandleSetting) => void
  /** The handle under a pixel. `update` has been called for the pane. */
  hit: (at: ScreenPoint, setting: HandleSetting) => Handle | null
  /** Where a handle can be taken hold of; null if it is not among these. */
  grip: (handle: Handle, setting: HandleSetting) => ScreenPoint | null
  dispose: () => void
}

export function sameHandle(a: Handle | null, b: Handle | null): boolean {
  return a === b || (a !== null && b !== null && JSON.stringify(a) === JSON.stringify(b))
}
