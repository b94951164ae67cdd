import type { Exercise } from './exercise'
import { abut } from './exercises/abut'
import { axis } from './exercises/axis'
import { behindGlass } from './exercises/behind-glass'
import { camera } from './exercises/camera'
import { corner } from './exercises/corner'
import { floats } from './exercises/floats'
import { handOver } from './exercises/hand-over'
import { hinge } from './exercises/hinge'
import { look } from './exercises/look'
import { measure } from './exercises/measure'
import { number } from './exercises/number'
import { onAnother } from './exercises/on-another'
import { plane } from './exercises/plane'
import { row } from './exercises/row'
import { scatter } from './exercises/scatter'
import { turn } from './exercises/turn'

/** The first steps, in the order of work: each a file, and a line here. */
export const EXERCISES = {
  look,
  behindGlass,
  axis,
  plane,
  number,
  turn,
  onAnother,
  corner,
  abut,
  hinge,
  row,
  scatter,
  measure,
  floats,
  camera,
  handOver,
} as const satisfies Record<string, Exercise>

export type ExerciseName = keyof typeof EXERCISES
export const EXERCISE_NAMES = Object.keys(EXERCISES) as ExerciseName[]
