import type { Matrix4, Quaternion } from 'three'
import { Vector3 } from 'three'
import type { PointOn } from '../level/fields'
import type { Measure } from '../level/schema'
import { Placed } from '../mesh/placed'
import type { LevelAxis } from '../units/height'
import { LEVEL_AXES } from '../units/height'
import type { LevelView } from '../scene/level-view'
import type { Shown } from '../scene/shown'
import type { LengthSet, Wanted } from './set-length'
import { pointToMicrometre } from '../math/micrometre'

/** What a number of a measure says: metres, square metres, degrees, or a slope by its rise over its run. */
export type Figure = 'length' | 'area' | 'angle' | 'slope'

/** A number drawn on the stage. `leg`: of a tape, which of its legs it is the length of, for setting it. */
export type MeasuredNumber = { at: Vector3; value: number; figure: Figure; leg?: number }

/** What comes of a measure as things stand. */
export type Measured = {
  /** Drawn with an end mark at both ends, in the world. */
  lines: (readonly [Vector3, Vector3])[]
  /** Drawn thin. */
  guides: (readonly [Vector3, Vector3])[]
  numbers: MeasuredNumber[]
  /** For its card: the main number first. The label of one along an axis is the letter of that in the level. */
  facts: { label: string; value: number; figure: Figure; axis?: LevelAxis }[]
  /** What has to be said, such as that nothing is below. */
  remarks: string[]
}

/** How things stand: as in the level, or as while something is dragged. */
export type Where = {
  level: LevelView
  matrixOf: (id: string) => Matrix4
  /** What a thing or a copy shows by itself. */
  shownBy: (id: string) => readonly Shown[]
  /** What is straight below a point, not counting a thing and all below it. */
  below: (point: Vector3, except: string | null) => { point: Vector3; id: string } | null
  /** Along which lengths are given part by part. */
  axes: Quaternion
}

/** How a kind of measure takes a typed length. */
export type Setter = {
  /** Whether it can be set along its line as well as level. */
  ways: boolean
  /** The two of whom either can be moved: their names, the last one first; none if there is no choice. */
  movers: (measure: Measure, level: LevelView) => string[]
  /** @throws SetLengthError if it cannot become so long */
  set: (measure: Measure, where: Where, wanted: Wanted) => LengthSet
}

/** All there is to know about one kind of measure. */
export type MeasureDefinition = {
  /** What people call it, and what its measures are named after. */
  name: string
  /** What is done to make one, in words. */
  hint: string
  /** SVG path data in a square of 24 by 24. */
  icon: string
  /** What takes another number typed in place of one on the stage; or why none does, in words. */
  set: Setter | string
  /** @param ends in the world @param sides the things it is between */
  measure: (
    ends: readonly Vector3[],
    where: Where,
    given: {
      sides: readonly (readonly Placed[])[]
      things: readonly (readonly string[])[]
      ons: readonly (string | null)[]
      connected: boolean
    },
  ) => Measured
}

/** An end where it is now; `isGone` if the thing it was on is not there any more, and it stays where it was. */
export function placeOfEnd(
  { at, on, point }: PointOn,
  { level, matrixOf }: Pick<Where, 'level' | 'matrixOf'>,
): { at: Vector3; isGone: boolean } {
  if (on === null) return { at: new Vector3(...at), isGone: false }
  return level.has(on)
    ? { at: new Vector3(...point).applyMatrix4(matrixOf(on)), isGone: false }
    : { at: new Vector3(...at), isGone: true }
}

/** An end on a thing, or in space, that is at a place of the world now. */
export function endAt(level: LevelView, on: string | null, at: Vector3): PointOn {
  const place = pointToMicrometre(at)
  // What is on a thing is kept to the last digit: its number must not differ from what was seen.
  return on === null || !level.has(on)
    ? { at: place, on: null, point: place }
    : { at: place, on, point: at.clone().applyMatrix4(level.worldMatrix(on).clone().invert()).toArray() }
}

/** What things and all below them show, placed. */
export function placedOf(ids: readonly string[], { level, shownBy }: Where): Placed[] {
  const all = new Set(ids.flatMap(id => (level.has(id) ? level.subtree(id) : [])))
  return [...all].flatMap(id => shownBy(id).map(({ solid, matrix }) => new Placed(solid, matrix)))
}

/** A way along three axes, each part as long as it is, without a sign. */
export function alongAxes(way: Vector3, axes: Quaternion): Measured['facts'] {
  const inside = way.clone().applyQuaternion(axes.clone().invert())
  return LEVEL_AXES.map(axis => ({
    label: 'XYZ'[axis]!,
    axis,
    value: Math.abs(inside.getComponent(axis)),
    figure: 'length' as const,
  }))
}

export const middleOf = (a: Vector3, b: Vector3) => a.clone().lerp(b, 0.5)
