import type { Role } from '~~/core/api/roles'
import type { ScreenPoint } from '../../core/math/screen'
import type { Handle } from '../../core/edit/handles/handle'
import type { Placement } from '../../core/level/schema'
import type { Quat, Vec3 } from '../../core/math/vectors'
import type { ViewKind } from '../../core/math/pose'

/**
 * What scripts in the page can ask; described in docs/automation.md. Points of the screen are in the page's CSS pixels.
 */
export type Automation = {
  /** The level as it is now: all placements, and the revision last saved. */
  level: () => { id: string; name: string; revision: number; placements: Placement[] } | null
  /** Ids of what is picked, the last picked at the end. */
  picked: () => string[]
  /** A placement's matrix to the world, sixteen numbers, column by column. */
  worldMatrix: (id: string) => number[]
  /** The matrices to the world of all that an arrangement shows, sixteen numbers each. */
  copies: (id: string) => number[][]
  /**
   * Where a point of the world is on the screen, in the active pane or a numbered one; null if it is behind the eye.
   */
  project: (point: Vec3, pane?: number) => ScreenPoint | null
  /** Where a handle can be taken hold of; null if it is not shown. */
  handle: (handle: Handle, pane?: number) => ScreenPoint | null
  /** Where the handles stand and which way their axes turn (a quaternion); null if none are shown. */
  frame: () => { origin: Vec3; axes: Quat } | null
  /** Where a pane looks from and to; the active one if none is named. */
  view: (pane?: number) => { kind: ViewKind; eye: Vec3; target: Vec3; fieldOfView: number } | null
  /**
   * Everybody else who has the level open: what they may do, ids of what they have picked and of what they move right
   * now, and where they look from and to (null while that is not known).
   */
  others: () => {
    name: string
    role: Role
    picked: string[]
    reserved: string[]
    dragging: string[]
    eye: Vec3 | null
    target: Vec3 | null
  }[]
  /** Puts the eye somewhere, looking at a point. */
  lookFrom: (eye: Vec3, target: Vec3) => void
  /** A picture of the stage without handles and outlines, as a WebP data address. */
  picture: (width: number, height: number) => Promise<string>
  /** Resolves when every change made so far has been saved, or rejects if the server is away. */
  saved: () => Promise<void>
  /**
   * Resolves when the stage shows what it is now; where the machine is slow, more simply as long as something moves.
   */
  drawn: () => Promise<void>
  /** Resolves when nothing moves any more and all of it is drawn whole. */
  rested: () => Promise<void>
}

declare global {
  interface Window {
    handyGrid?: Automation
  }
}
