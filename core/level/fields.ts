import { z } from 'zod'
import { FARTHEST } from '../math/farthest'
import { lineOfText, LONGEST_NAME } from '../units/text'

// Zod's compiled validators need eval, which the page's content security policy forbids.
z.config({ jitless: true })

export const coordinate = z.number({ error: 'must be a finite number' }).min(-FARTHEST).max(FARTHEST)
const factor = coordinate.refine(value => value !== 0, 'a size of 0 would flatten the shape for good')

export const vec3Schema = z.tuple([coordinate, coordinate, coordinate])
export const scaleSchema = z.tuple([factor, factor, factor])
export const quatSchema = z
  .tuple([coordinate, coordinate, coordinate, coordinate])
  .refine(([x, y, z, w]) => isOfUnitLength(x, y, z, w), 'must be a quaternion of unit length')

export const isOfUnitLength = (x: number, y: number, z: number, w: number) =>
  Math.abs(x * x + y * y + z * z + w * w - 1) < 1e-6

/** In small letters, however it was sent: RFC 9562, 4. */
export const idSchema = z.uuid('must be a UUID').toLowerCase()

export const nameSchema = lineOfText(LONGEST_NAME)

/** A placement's id, or a copy's: that of its arrangement and its key. */
export const thingIdSchema = z
  .string()
  .max(400)
  .refine(text => idSchema.safeParse(text.split('#', 1)[0]).success, 'must name a thing')

/** A point that may stay on a thing. */
export const pointOnSchema = z.strictObject({
  /** In the world: where it is, or where it was last if its thing is gone. */
  at: vec3Schema,
  /** The thing it stays on; null for a point of space. */
  on: thingIdSchema.nullable(),
  /** In the thing's own axes; without a thing the same as `at`. */
  point: vec3Schema,
})

export type PointOn = z.infer<typeof pointOnSchema>

export const colorSchema = z.string().regex(/^#[0-9a-f]{6}$/, 'must be a colour such as #f2b441')
