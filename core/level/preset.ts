import { z } from 'zod'
import { nameSchema } from './fields'
import { valuesSchema } from './values'

/** The word for a form, such as `line` or `light`. One that is not known is left alone. */
const formSchema = z.string().regex(/^[a-z][a-z-]{0,39}$/, 'must be a short word in small letters')

/** A small picture within a text. */
const pictureSchema = z
  .string()
  .max(30_000, 'must be a small picture')
  .regex(/^data:image\/(?:jpeg|png|webp);base64,[A-Za-z0-9+/]+={0,2}$/, 'must be a picture')

/** The numbers of a form, kept. */
export const presetFieldsSchema = z.strictObject({
  form: formSchema,
  name: nameSchema,
  values: valuesSchema,
  /** Of what it showed when it was kept. */
  picture: pictureSchema.nullable(),
})
export type PresetFields = z.infer<typeof presetFieldsSchema>
