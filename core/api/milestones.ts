import { z } from 'zod'
import { idSchema, nameSchema } from '../level/fields'
import { plainText } from '../units/text'
import { revisionSchema } from './schema'

/** What a milestone was made by: somebody, the first change of a day, or a change of very much. */
export const WAYS_MADE = ['by hand', 'day', 'large'] as const
export type WayMade = (typeof WAYS_MADE)[number]

/** Characters of what is said about one. */
export const LONGEST_ABOUT = 500
const aboutSchema = plainText(LONGEST_ABOUT)

/** A named state of a level, to come back to. */
export const milestoneSchema = z.strictObject({
  id: idSchema,
  levelId: idSchema,
  /** The level as it was after so many changes. */
  revision: revisionSchema,
  name: nameSchema,
  about: z.string(),
  made: z.enum(WAYS_MADE),
  by: nameSchema,
  /** Whether that is who they say, by a key of their own or by the identity provider. */
  proven: z.boolean(),
  madeAt: z.iso.datetime(),
  hasPicture: z.boolean(),
  /** Null until the state was written down: till then the journal knows it. */
  placementCount: z.int().min(0).nullable(),
})
export type Milestone = z.infer<typeof milestoneSchema>

export const newMilestoneSchema = z.strictObject({
  /** Made by the sender, so that sending again is noticed. */
  id: idSchema,
  name: nameSchema,
  about: aboutSchema.default(''),
  /** Who makes it, where that is not proven. */
  by: nameSchema,
  /** The level as it was after that many changes; as it is when left out. */
  revision: revisionSchema.optional(),
})
export type NewMilestone = z.input<typeof newMilestoneSchema>

export const milestonePatchSchema = z
  .strictObject({
    name: nameSchema.optional(),
    about: aboutSchema.optional(),
    /** False brings a deleted one back. */
    deleted: z.literal(false).optional(),
  })
  .refine(patch => Object.keys(patch).length > 0, 'nothing to change')
export type MilestonePatch = z.infer<typeof milestonePatchSchema>

/** What a level is compared with. */
export const compareQuerySchema = z
  .strictObject({
    /** Another level. */
    level: idSchema.optional(),
    /** A milestone, of whatever level. */
    milestone: idSchema.optional(),
    as: z.enum(['json', 'csv']).default('json'),
  })
  .refine(({ level, milestone }) => (level === undefined) !== (milestone === undefined), {
    path: ['level'],
    message: 'has to be given, or a milestone',
  })
export type CompareQuery = z.output<typeof compareQuerySchema>

const DAY = 86_400_000
/** Up to which age, in days, one is kept of each so many days; of what is older one of each thirty. */
const KEPT: readonly (readonly [age: number, of: number])[] = [
  [14, 1],
  [100, 7],
  [Infinity, 30],
]
/** Days in which all are kept. */
const ALL_KEPT = 2

/**
 * Which of the milestones that were made by themselves are one too many: all of two days are kept, then the first of
 * each day for two weeks, of each week up to a hundred days, and of each thirty days.
 *
 * @param all of one level
 * @param now milliseconds
 * @returns their ids
 */
export function beyondKeeping(all: readonly { id: string; at: number }[], now: number): string[] {
  const seen = new Set<string>()
  return all
    .toSorted((a, b) => a.at - b.at)
    .filter(({ at }) => {
      const age = (now - at) / DAY
      if (age < ALL_KEPT) return false
      const days = KEPT.find(([most]) => age < most)![1]
      // By the calendar and not by age, so that the same is kept tomorrow.
      const span = `${days} ${Math.floor(at / DAY / days)}`
      if (seen.has(span)) return true
      seen.add(span)
      return false
    })
    .map(({ id }) => id)
}
