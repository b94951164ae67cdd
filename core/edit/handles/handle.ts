import type { Quaternion, Vector3 } from 'three'
import type { AxisIndex, Constraint } from './lock'
import type { PivotPlace } from './pivot'
import type { SizeBox, SizeGrip } from './size'

/** Something on the stage that can be taken hold of. */
export type Handle =
  | ({ do: 'move' } & Constraint)
  | { do: 'turn'; axis: AxisIndex }
  | { do: 'size'; grip: SizeGrip }
  | { do: 'pivot'; place: PivotPlace }
  /** By its place among those of an arrangement's rule. */
  | { do: 'grip'; index: number }

/** Which handles are shown; `all` are Move, Turn and Size together. */
export const HANDLE_CHOICES = ['none', 'move', 'turn', 'size', 'all'] as const
export type HandleChoice = (typeof HANDLE_CHOICES)[number]

/** Where handles stand: at a point of the world, along axes, around a box. */
export type HandleFrame = { origin: Vector3; axes: Quaternion; box: SizeBox | null }
