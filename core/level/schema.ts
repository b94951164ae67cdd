import { z } from 'zod'
import { arrangementSchema } from '../arrange/arrangement'
import { blockShapeSchema } from '../kit/block'
import { lineOfText, plainText } from '../units/text'

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

/** In small letters, however it was sent: RFC 9562, 4. */
export const idSchema = z.uuid('must be a UUID').toLowerCase()

export const nameSchema = lineOfText(200)

export const KINDS = ['part', 'block', 'arrangement', 'group', 'camera', 'light', 'marker'] as const
export const kindSchema = z.enum(KINDS)

const colorSchema = z.string().regex(/^#[0-9a-f]{6}$/, 'must be a colour such as #f2b441')

/** What a placement of each kind has beyond the fields that all have. */
export const ownSchemas = {
  part: z.strictObject({}),
  block: z.strictObject({}),
  /** What hangs below it are the sources that its rule makes copies of. */
  arrangement: arrangementSchema,
  /** `open`: a click on what is inside picks that at once, not the whole group. */
  group: z.strictObject({ open: z.boolean().optional() }),
  /** Looks along -Z, as in glTF. `fieldOfView` is vertical, in degrees. */
  camera: z.strictObject({ fieldOfView: z.number().min(20).max(110) }),
  /** Shines along -Z; `range` in metres, 0 for no end. */
  light: z.strictObject({ light: z.enum(['sun', 'point', 'spot']), color: colorSchema, intensity: coordinate.min(0), range: coordinate.min(0) }),
  /** A spawn faces +Z; a volume is a box of 1 m under its size; a note says `text`. */
  marker: z.strictObject({ marker: z.enum(['spawn', 'volume', 'note']), text: plainText(2000) }),
}

/** The fields of a placement, all of them put and compared one by one. */
export const placementFieldsSchema = z.strictObject({
  /** The placement it hangs from; null at the top. */
  parentId: idSchema.nullable(),
  /** Place among its siblings, ascending; ties are broken by id. */
  order: coordinate,
  name: nameSchema,
  /** `part` shows a part of the kit, `block` a block of the level, `arrangement` copies of what hangs below it; `group` only holds others together; the rest are shown by marks. */
  kind: kindSchema,
  /** The part shown; null unless the kind is `part`. */
  partId: idSchema.nullable(),
  /** The block shown; null unless the kind is `block`. */
  blockId: idSchema.nullable(),
  /** Where the pivot stands, in the parent's axes, in metres. */
  translation: vec3Schema,
  /** Unit quaternion x, y, z, w, as in glTF. */
  rotation: quatSchema,
  scale: scaleSchema,
  /** The point of the thing's own axes that stands at `translation`. */
  pivot: vec3Schema,
  hidden: z.boolean(),
  locked: z.boolean(),
  layerId: idSchema.nullable(),
  /** The kind's own fields. */
  own: z.union([ownSchemas.part, ownSchemas.block, ownSchemas.arrangement, ownSchemas.group, ownSchemas.camera, ownSchemas.light, ownSchemas.marker]),
})

export const placementSchema = placementFieldsSchema.extend({ id: idSchema })
  .refine(placement => (placement.kind === 'part') === (placement.partId !== null), {
    path: ['partId'],
    message: 'must be given for a part and be null for anything else',
  })
  .refine(placement => (placement.kind === 'block') === (placement.blockId !== null), {
    path: ['blockId'],
    message: 'must be given for a block and be null for anything else',
  })
  .superRefine(({ kind, own }, context) => {
    for (const issue of ownSchemas[kind].safeParse(own).error?.issues ?? []) {
      context.addIssue({ code: 'custom', path: ['own', ...issue.path], message: issue.message })
    }
  })

export const layerFieldsSchema = z.strictObject({
  name: nameSchema,
  color: colorSchema,
  visible: z.boolean(),
  locked: z.boolean(),
  order: coordinate,
})
export const layerSchema = layerFieldsSchema.extend({ id: idSchema })

/** A saved viewpoint to jump back to. */
export const stationFieldsSchema = z.strictObject({
  name: nameSchema,
  eye: vec3Schema,
  target: vec3Schema,
  /** Vertical, in degrees. */
  fieldOfView: z.number().min(20).max(110),
  order: coordinate,
})
export const stationSchema = stationFieldsSchema.extend({ id: idSchema })

/** The shape and colour that all instances of a block share. */
export const blockFieldsSchema = z.strictObject({ shape: blockShapeSchema, color: colorSchema })
export const blockSchema = blockFieldsSchema.extend({ id: idSchema })

/** One small step of a change: put some fields of a record (all of them if it is new), or remove it. */
export const operationSchema = z.discriminatedUnion('do', [
  z.strictObject({ do: z.literal('put'), id: idSchema, fields: placementFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove'), id: idSchema }),
  z.strictObject({ do: z.literal('put-layer'), id: idSchema, fields: layerFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-layer'), id: idSchema }),
  z.strictObject({ do: z.literal('put-station'), id: idSchema, fields: stationFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-station'), id: idSchema }),
  z.strictObject({ do: z.literal('put-block'), id: idSchema, fields: blockFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-block'), id: idSchema }),
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
export type Kind = z.infer<typeof kindSchema>
export type Layer = z.infer<typeof layerSchema>
export type Station = z.infer<typeof stationSchema>
export type Block = z.infer<typeof blockSchema>
export type Placement = z.infer<typeof placementSchema>
export type Operation = z.infer<typeof operationSchema>
export type Change = z.infer<typeof changeSchema>

/** A saved change with its place in the level's journal. */
export type JournalEntry = Change & { revision: number }
