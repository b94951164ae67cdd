import type { Object3D } from 'three'
import type { ScreenPoint } from '~~/core/math/screen'
import type { Board } from './board'
import type { View } from './view'

/** Something that the stage shows besides the level. */
export type StageLayer = {
  /** What of it is drawn with the level, behind what is before it; null for nothing. */
  readonly inLevel: Object3D | null
  /** What of it is drawn over the level, in every pane; null for nothing. */
  readonly over: Object3D | null
  /**
   * Whether what of it is drawn with the level is in pictures that are taken with marks; it is never in those without.
   */
  readonly inPictures: boolean
  /** Whether there is anything over the level. */
  readonly isShown: boolean
  setBoard: (board: Board) => void
  /** Before it is drawn over a view. */
  update: (view: View) => void
  dispose: () => void
  /** The number of it that a pixel is on, if it shows any that can be clicked. */
  numberAt?: (at: ScreenPoint, view: View) => NumberAt | null
  /** What of it, by its key, a pixel could take hold of, if it shows any such thing. */
  graspAt?: (at: ScreenPoint, view: View) => string | null
}

/** A layer as it is made for a stage, and asked of it. */
export type LayerKind<L extends StageLayer = StageLayer> = new () => L

/** A number that can be clicked: what it is the number of, and its middle in pixels. */
export type NumberAt = { key: string; at: ScreenPoint }
