import { z } from 'zod'

// Zod's compiled validators need eval, which the page's content security policy forbids.
z.config({ jitless: true })

/** Beyond this a double no longer holds a tenth of a millimetre after a few multiplications; no level is that large. */
export const FARTHEST = 1e9

const coordinate = z.number({ error: 'must be a finite number' }).min(-FARTHEST).max(FARTHEST)
const factor = coordinate.refine(value => value !== 0, 'a size of 0 would flatten the shape for good')

export const vec3Schema = z.tuple([coordinate, coordinate, coordinate])
export const scaleSchema = z.tuple([factor, factor, factor])
export const quatSchema = z.tuple([coordinate, coordinate, coordinate, coordinate])
  .refine(([x, y, z, w]) => Math.abs(x * x + y * y + z * z + w * w - 1) < 1e-6, 'must be a quaternion of unit length')

export const idSchema = z.uuid('must be a UUID')

/** A name is plain text on one line. Markup is refused rather than cleaned, so that nothing is changed silently. */
export const nameSchema = z.string().trim().min(1, 'must not be empty').max(200, 'must be at most 200 characters')
  .refine(name => !/[<>]/.test(name), 'must be plain text without < or >')
  .refine(name => !/[\u0000-\u001f\u007f\u2028\u2029]/.test(name), 'must be on one line, without control characters')

/** The fields of a placement, all of them put and compared one by one. */
export const placementFieldsSchema = z.strictObject({
  /** The placement it hangs from; null at the top. */
  parentId: idSchema.nullable(),
  /** Place among its siblings, ascending; ties are broken by id. */
  order: coordinate,
  name: nameSchema,
  /** `part` shows a part of the kit; `group` only holds others together. */
  kind: z.enum(['part', 'group']),
  /** The part shown; null unless the kind is `part`. */
  partId: idSchema.nullable(),
  /** Where the pivot stands, in the parent's axes, in metres. */
  translation: vec3Schema,
  /** Unit quaternion x, y, z, w, as in glTF. */
  rotation: quatSchema,
  scale: scaleSchema,
  /** The point of the thing's own axes that stands at `translation`. */
  pivot: vec3Schema,
  hidden: z.boolean(),
  locked: z.boolean(),
})

export const placementSchema = placementFieldsSchema.extend({ id: idSchema })
  .refine(placement => (placement.kind === 'part') === (placement.partId !== null), {
    path: ['partId'],
    message: 'must be given for a part and be null for anything else',
  })

/** One small step of a change: put some fields of a record (all of them if it is new), or remove it. */
export const operationSchema = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('put'), id: idSchema, fields: placementFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove'), id: idSchema }),
])

/** One undoable, saved step. Its id makes sending it twice harmless. */
export const changeSchema = z.strictObject({
  id: idSchema,
  label: nameSchema,
  /** Who made it, as shown to others when two changes meet. */
  author: nameSchema,
  operations: z.array(operationSchema).min(1).max(200_000),
})

export type Vec3 = z.infer<typeof vec3Schema>
export type Quat = z.infer<typeof quatSchema>
export type PlacementFields = z.infer<typeof placementFieldsSchema>
export type Placement = z.infer<typeof placementSchema>
export type Operation = z.infer<typeof operationSchema>
export type Change = z.infer<typeof changeSchema>

/** A saved change with its place in the level's journal. */
export type JournalEntry = Change & { revision: number }
