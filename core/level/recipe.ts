import { z } from 'zod'
import { coordinate, idSchema, nameSchema, quatSchema, scaleSchema, vec3Schema } from './fields'
import { valuesSchema } from './values'

/** Steps of a recipe, what each does, and inputs, at most. */
export const RECIPE_BOUNDS = { steps: 100, deeds: 500, inputs: 40, exact: 200 }

/** What an input is called in sums. */
const inputName = z.string().regex(/^[a-z][A-Za-z0-9]{0,39}$/, 'must be a short name of letters and digits')

/** A number, or a sum over inputs such as `gap * 2 + 0.1`. */
const sumSchema = z.union([coordinate, z.string().min(1).max(200)])
const threeSums = z.tuple([sumSchema, sumSchema, sumSchema])

/**
 * Whom a step is about: `each` of what is picked, the first, second … picked by its number, or what an earlier step has
 * made, as `new1`. Within values the same with an at-sign before it, as in `@each`.
 */
export const WHO = /^(?:each|[1-9]\d{0,2}|new[1-9]\d{0,3})$/
const whoSchema = z.string().regex(WHO, 'must be each, a number, or new1, new2 …')
/** The same, or what there is in the level whoever is picked, by its id. */
const whomSchema = z.union([whoSchema, idSchema])

/** What is in a level besides its placements, that a step may make, change or remove. */
export const RECIPE_RECORDS = ['layer', 'station', 'block', 'measure', 'relation'] as const
const ofSchema = z.enum(['placement', ...RECIPE_RECORDS])

const deedSchema = z.discriminatedUnion('do', [
  /** Shifts by so many metres along the axes of what it hangs from. `exact`: what came of what, to the last bit. */
  z.strictObject({
    do: z.literal('move'),
    who: whomSchema,
    by: threeSums,
    exact: z.array(z.tuple([vec3Schema, vec3Schema])).max(RECIPE_BOUNDS.exact),
  }),
  /** Turns about an axis of what it hangs from, by degrees. */
  z.strictObject({
    do: z.literal('turn'),
    who: whomSchema,
    axis: vec3Schema.refine(axis => Math.hypot(...axis) > 1e-6, 'must point somewhere'),
    by: sumSchema,
    exact: z.array(z.tuple([quatSchema, quatSchema])).max(RECIPE_BOUNDS.exact),
  }),
  /** Sizes by a factor for each of its axes. */
  z.strictObject({
    do: z.literal('size'),
    who: whomSchema,
    by: threeSums,
    exact: z.array(z.tuple([scaleSchema, scaleSchema])).max(RECIPE_BOUNDS.exact),
  }),
  /** Puts fields. A value `{"=": sum}` is worked out. */
  z.strictObject({ do: z.literal('set'), of: ofSchema, who: whomSchema, fields: valuesSchema }),
  /**
   * Makes something new; `like`: as one that there is, so far off, with what is said of it besides.
   */
  z.strictObject({
    do: z.literal('make'),
    of: ofSchema,
    as: whoSchema.regex(/^new/, 'must be new1, new2 …'),
    like: whoSchema.nullable(),
    by: threeSums,
    exact: z.array(z.tuple([vec3Schema, vec3Schema])).max(RECIPE_BOUNDS.exact),
    fields: valuesSchema,
  }),
  z.strictObject({ do: z.literal('remove'), of: ofSchema, who: whomSchema }),
])

/** Steps kept as one, with inputs. */
export const recipeFieldsSchema = z.strictObject({
  name: nameSchema,
  inputs: z
    .array(
      z.strictObject({
        name: inputName,
        label: nameSchema,
        quantity: z.enum(['length', 'angle', 'factor', 'count', 'number']),
        /** The axis of the level that it runs along, whose letter is in the label. */
        axis: z.literal([0, 1, 2]).optional(),
        /** What it is as long as nobody says otherwise. */
        first: coordinate,
      }),
    )
    .max(RECIPE_BOUNDS.inputs)
    .refine(all => new Set(all.map(({ name }) => name)).size === all.length, 'two inputs have one name'),
  steps: z
    .array(z.strictObject({ label: nameSchema, does: z.array(deedSchema).max(RECIPE_BOUNDS.deeds) }))
    .min(1)
    .max(RECIPE_BOUNDS.steps)
    .refine(
      steps => steps.reduce((sum, { does }) => sum + does.length, 0) <= RECIPE_BOUNDS.deeds,
      `must do no more than ${RECIPE_BOUNDS.deeds} things`,
    ),
})

export type Recipe = z.infer<typeof recipeFieldsSchema>
export type RecipeStep = Recipe['steps'][number]
export type Deed = z.infer<typeof deedSchema>
export type RecipeInput = Recipe['inputs'][number]
export type Sum = z.infer<typeof sumSchema>
