import { z } from 'zod'
import { factor, place } from './numbers'
import { ruleSchema } from './rules'
import { addedSchema } from './scatter/rule'

const spread = z.tuple(
  [0, 1, 2].map(() => z.number().min(0, 'must be at least 0').max(100_000, 'must be at most 100,000')) as [
    z.ZodNumber,
    z.ZodNumber,
    z.ZodNumber,
  ],
)
const seed = z.int('must be a whole number').min(0, 'must be at least 0').max(999_999, 'must be at most 999,999')
const source = z.int('must be a whole number').min(0).max(10_000)

/**
 * Which source each copy shows. In turn is what happens without it: each row begins one source further than the one
 * before.
 */
const sourcesSchema = z.discriminatedUnion('by', [
  /** Numbers of sources, again and again along each row. */
  z.strictObject({ by: z.literal('pattern'), pattern: z.array(source).min(1, 'needs a source').max(1000) }),
  /** At random, each as often as its weight says; sources without one do not come. */
  z.strictObject({
    by: z.literal('weight'),
    weights: z.array(z.number().min(0, 'must be at least 0').max(1000, 'must be at most 1000')).min(1).max(1000),
    seed,
  }),
  /** Others for the first and the last of each row, and for corners of a path, than in between. */
  z.strictObject({ by: z.literal('ends'), first: source, middle: source, last: source, corner: source.optional() }),
])

/** How much each copy may differ at random, as far to either side; the same for a place whatever the counts. */
export const varySchema = z.strictObject({
  seed,
  /** Metres. */
  move: spread,
  /** Degrees. */
  turn: spread,
  /** The smallest and the largest factor. */
  size: z
    .tuple([factor, factor])
    .refine(([least, most]) => least <= most, 'the smallest must not be above the largest'),
})

/** How one copy differs from its source: in the source's own numbers. */
const exceptionSchema = z.strictObject({
  move: place.optional(),
  /** A unit quaternion. */
  turn: z
    .tuple([z.number(), z.number(), z.number(), z.number()])
    .refine(quat => Math.abs(Math.hypot(...quat) - 1) < 1e-6, 'must be a unit quaternion')
    .optional(),
  size: z
    .tuple(
      [0, 1, 2].map(() =>
        z
          .number()
          .min(-1000)
          .max(1000)
          .refine(value => Math.abs(value) >= 1e-6, 'must not be 0'),
      ) as [z.ZodNumber, z.ZodNumber, z.ZodNumber],
    )
    .optional(),
  hidden: z.literal(true).optional(),
  /** Shows this source instead. */
  source: source.optional(),
  /** Of a scatter: put down by hand here. */
  added: addedSchema.optional(),
})

/** Up to three whole numbers below ten million, as people would write them. */
const KEY = /^(0|[1-9]\d{0,6})(,(0|[1-9]\d{0,6})){0,2}$/

/** What a placement of kind `arrangement` has of its own. Its children are the sources. */
export const arrangementSchema = z.strictObject({
  rule: ruleSchema,
  sources: sourcesSchema.optional(),
  vary: varySchema.optional(),
  /**
   * By the key of a copy: its number in a line, ring or path; `row,column` in a fan; `row,column,layer` in a grid;
   * `stretch,place,0` and `point,0,1` on a path with corners; `surface,name,name` in a scatter, `0,number,0` for what
   * was put down by hand there.
   */
  exceptions: z
    .record(z.string().regex(KEY, 'must name a copy, as in 3 or 2,5'), exceptionSchema)
    .refine(all => Object.keys(all).length <= 10_000, 'may be 10,000')
    .optional(),
})

export type Sources = z.infer<typeof sourcesSchema>
export type Vary = z.infer<typeof varySchema>
export type Exception = z.infer<typeof exceptionSchema>
export type ArrangementOwn = z.infer<typeof arrangementSchema>

/** Whether what a placement has of its own is an arrangement's. */
export function isArrangement(own: object): own is ArrangementOwn {
  return 'rule' in own
}
