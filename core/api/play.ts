import { z } from 'zod'
import { idSchema, nameSchema } from '../level/fields'
import { recipeFieldsSchema } from '../level/recipe'

/** Things that a recipe is played on at once, at most. */
export const MOST_PLAYED_ON = 10_000

/** Playing a recipe on things of a level. */
export const playRequestSchema = z.strictObject({
  /** A recipe of the level by its id or its name; or one as it is. */
  recipe: z.union([nameSchema, recipeFieldsSchema]),
  /** The ids of things, in their order. */
  on: z.array(idSchema).max(MOST_PLAYED_ON).default([]),
  /** Names of further things, each of which one thing alone has. */
  named: z.array(nameSchema).max(MOST_PLAYED_ON).default([]),
  /** By the names of inputs. */
  inputs: z.record(z.string().max(40), z.number()).default({}),
  /** Who plays it, where that is not proven. */
  author: nameSchema.default('Somebody'),
  /** The id that the change is to have, by which sending it again is noticed. */
  change: idSchema.optional(),
  /** Only says what would come of it. */
  dry: z.boolean().default(false),
})

export const playAnswerSchema = z.strictObject({
  /** What the change is called. */
  label: z.string(),
  /** How far the level is now. */
  revision: z.int().min(0),
  /** The change that did it; null if it was only looked at. */
  change: idSchema.nullable(),
  operations: z.int().min(0),
  /** The ids of what was made. */
  made: z.array(idSchema),
})

export type PlayRequest = z.infer<typeof playRequestSchema>
export type PlayAnswer = z.infer<typeof playAnswerSchema>
