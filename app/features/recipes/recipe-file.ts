import { z } from 'zod'
import type { Recipe } from '~~/core/level/recipe'
import { recipeFieldsSchema } from '~~/core/level/recipe'
import { recipeProblem } from '~~/core/recipe/playing'
import { readJsonAs } from '~/editor/json-file'

// A recipe as a file of its own: JSON with a version, as `npm run level -- play` takes it too.

const FORMAT = 'handy-grid recipe'
const VERSION = 1
const fileSchema = z.strictObject({ format: z.literal(FORMAT), version: z.number(), recipe: recipeFieldsSchema })

/** Bytes of such a file, at most. */
export const LARGEST_RECIPE = 2_000_000

export type RecipeRead = { ok: true; recipe: Recipe } | { ok: false; error: string }

export const writeRecipe = (recipe: Recipe): string =>
  `${JSON.stringify({ format: FORMAT, version: VERSION, recipe }, null, 2)}\n`

/** Reads what `writeRecipe` has written, or somebody by hand. */
export function readRecipeFile(text: string): RecipeRead {
  const read = readJsonAs(text, fileSchema)
  if (!read.ok) return read
  const { version, recipe } = read.value
  if (version > VERSION) return { ok: false, error: 'It is of a newer version of this program.' }
  const problem = recipeProblem(recipe)
  return problem === null ? { ok: true, recipe } : { ok: false, error: problem }
}
