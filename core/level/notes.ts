import { z } from 'zod'
import { plainText } from '../units/text'
import { idSchema, nameSchema, pointOnSchema } from './fields'

/** Characters of a note or an answer. */
export const LONGEST_NOTE = 2000

/** To the millisecond, so that texts are in the order of time; years that every clock knows. */
const momentSchema = z.iso
  .datetime({ precision: 3 })
  .refine(text => /^(19[7-9]|2\d\d)\d-/.test(text), 'must be from 1970 on')

const said = {
  text: plainText(LONGEST_NOTE).trim().min(1, 'must not be empty'),
  /** Who said it. */
  by: nameSchema,
  when: momentSchema,
}

/** A note at a place that is talked about: what it begins with. It goes along with the thing it is on. */
export const threadFieldsSchema = z.strictObject({ ...said, at: pointOnSchema, done: z.boolean() })

/** What somebody says to it. */
export const answerFieldsSchema = z.strictObject({ ...said, threadId: idSchema })
