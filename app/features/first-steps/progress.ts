import { z } from 'zod'
import { EXERCISE_NAMES } from '~~/core/learn/exercises'

/** Exercises by name; what is none any more is left out. */
const names = z
  .array(z.unknown())
  .catch([])
  .transform(kept => EXERCISE_NAMES.filter(name => kept.includes(name)))
const progressSchema = z.object({ done: names, skipped: names }).catch({ done: [], skipped: [] })

/** What is kept on this device of how far somebody is. */
export type Progress = z.output<typeof progressSchema>

export const readProgress = (kept: unknown): Progress => progressSchema.parse(kept)
