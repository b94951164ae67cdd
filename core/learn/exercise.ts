import type { Vec3 } from '../math/vectors'
import type { Condition } from './conditions'

/** Where the pointer of somebody who shows an exercise goes: a thing, or a place of the world. */
export type ShownAt = { thing: string } | { place: Vec3 }

/** One step of showing how it can be done. */
export type ShownStep = {
  says: string
  /** Where the pointer goes; it stays where it is when left out. */
  at?: ShownAt
  /** What is dragged meanwhile: to a place of the world (null: as it is along that), or onto the top of another. */
  drags?: { thing: string; to: readonly [number | null, number | null, number | null] } | { thing: string; on: string }
  /** What turns meanwhile, about the vertical, in degrees. */
  turns?: { thing: string; by: number }
}

/** One minute of the first steps. Its texts mean keys by what they do: `press {Set down}`. */
export type Exercise = {
  name: string
  /** What is to be done, in a sentence. */
  says: string
  /** What that is good for, in another. */
  why: string
  /** What of the yard it is about, by name. */
  things: readonly string[]
  /** Done when all of it is so. */
  until: readonly Condition[]
  shows: readonly ShownStep[]
  /** The page of the handbook that says more. */
  page: string
}

export const defineExercise = (exercise: Exercise): Exercise => exercise
