import { z } from 'zod'
import { plainText } from '../units/text'
import { coordinate } from './fields'

/**
 * The word for a kind of finding or for a budget, such as `floating` or `triangles`. What is not known is left alone.
 */
const wordSchema = z.string().regex(/^[a-z][a-z-]{0,39}$/, 'must be a short word in small letters')

/** What is asked of a level, by kind of finding or budget: what differs from what is asked of any level. */
export const limitFieldsSchema = z.strictObject({
  of: wordSchema,
  /** Not looked for at all. */
  off: z.boolean(),
  /** In base units: metres, degrees, factors, counts. */
  values: z
    .record(z.string().regex(/^[a-z][A-Za-z]{0,39}$/), coordinate)
    .refine(values => Object.keys(values).length <= 40, 'must be 40 at the most'),
})

/** A finding that is left as it is, and why. */
export const exemptionFieldsSchema = z.strictObject({
  of: wordSchema,
  /** What was found, in the order of their ids: things, copies, or a part of the kit. */
  things: z.array(z.string().max(400)).min(1).max(2),
  /** How much it was; null if that cannot be said in a number. */
  amount: coordinate.nullable(),
  reason: plainText(500),
})
