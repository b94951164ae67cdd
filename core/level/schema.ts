import { z } from 'zod'
import { blockShapeSchema } from '../mesh/block'
import { colorSchema, coordinate, idSchema, nameSchema, quatSchema, scaleSchema, vec3Schema } from './fields'
import { anyOwnSchema, kindSchema, KINDS } from './kinds'
import { exemptionFieldsSchema, limitFieldsSchema } from './limits'
import { answerFieldsSchema, threadFieldsSchema } from './notes'
import { presetFieldsSchema } from './preset'
import { recipeFieldsSchema } from './recipe'
import { relationFieldsSchema, relationProblem } from './relation'
import { skyFieldsSchema } from './sky'
import { measureFieldsSchema, measureProblem } from './measure'

/** The fields of a placement, all of them put and compared one by one. */
export const placementFieldsSchema = z.strictObject({
  /** The placement it hangs from; null at the top. */
  parentId: idSchema.nullable(),
  /** Place among its siblings, ascending; ties are broken by id. */
  order: coordinate,
  name: nameSchema,
  kind: kindSchema,
  /** The part shown; null unless the kind shows one. */
  partId: idSchema.nullable(),
  /** The block shown; null unless the kind shows one. */
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
  own: anyOwnSchema,
})

export const placementSchema = placementFieldsSchema
  .extend({ id: idSchema })
  .refine(placement => (KINDS[placement.kind].shows === 'part') === (placement.partId !== null), {
    path: ['partId'],
    message: 'must be given for a part, and for nothing else',
  })
  .refine(placement => (KINDS[placement.kind].shows === 'block') === (placement.blockId !== null), {
    path: ['blockId'],
    message: 'must be given for a block, and for nothing else',
  })
  .superRefine(({ kind, own }, context) => {
    for (const issue of KINDS[kind].own.safeParse(own).error?.issues ?? []) {
      context.addIssue({ code: 'custom', path: ['own', ...issue.path], message: issue.message })
    }
  })

const layerFieldsSchema = z.strictObject({
  name: nameSchema,
  color: colorSchema,
  visible: z.boolean(),
  locked: z.boolean(),
  order: coordinate,
})
export const layerSchema = layerFieldsSchema.extend({ id: idSchema })

/** A saved viewpoint to jump back to. */
const stationFieldsSchema = z.strictObject({
  name: nameSchema,
  eye: vec3Schema,
  target: vec3Schema,
  /** Vertical, in degrees. */
  fieldOfView: z.number().min(20).max(110),
  order: coordinate,
})
export const stationSchema = stationFieldsSchema.extend({ id: idSchema })

/** The shape and colour that all instances of a block share. */
const blockFieldsSchema = z.strictObject({ shape: blockShapeSchema, color: colorSchema })
export const blockSchema = blockFieldsSchema.extend({ id: idSchema })

export const measureSchema = measureFieldsSchema.extend({ id: idSchema }).superRefine((measure, context) => {
  const problem = measureProblem(measure)
  if (problem) context.addIssue({ code: 'custom', path: [problem.path], message: problem.message })
})
export const limitSchema = limitFieldsSchema.extend({ id: idSchema })
export const exemptionSchema = exemptionFieldsSchema.extend({ id: idSchema })
export const skySchema = skyFieldsSchema.extend({ id: idSchema })
export const relationSchema = relationFieldsSchema.extend({ id: idSchema }).superRefine((relation, context) => {
  const problem = relationProblem(relation)
  if (problem) context.addIssue({ code: 'custom', path: [problem.path], message: problem.message })
})
export const threadSchema = threadFieldsSchema.extend({ id: idSchema })
export const answerSchema = answerFieldsSchema.extend({ id: idSchema })
export const presetSchema = presetFieldsSchema.extend({ id: idSchema })
export const recipeSchema = recipeFieldsSchema.extend({ id: idSchema })

/**
 * What a level has besides its placements: records that stand by themselves, by the word that operations have for them.
 */
export const RECORDS = {
  layer: layerSchema,
  station: stationSchema,
  block: blockSchema,
  measure: measureSchema,
  limit: limitSchema,
  exemption: exemptionSchema,
  sky: skySchema,
  thread: threadSchema,
  answer: answerSchema,
  relation: relationSchema,
  preset: presetSchema,
  recipe: recipeSchema,
}
export type RecordName = keyof typeof RECORDS
export type RecordOf<N extends RecordName> = z.infer<(typeof RECORDS)[N]>
export const RECORD_NAMES = Object.keys(RECORDS) as RecordName[]

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
  z.strictObject({ do: z.literal('put-measure'), id: idSchema, fields: measureFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-measure'), id: idSchema }),
  z.strictObject({ do: z.literal('put-limit'), id: idSchema, fields: limitFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-limit'), id: idSchema }),
  z.strictObject({ do: z.literal('put-exemption'), id: idSchema, fields: exemptionFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-exemption'), id: idSchema }),
  z.strictObject({ do: z.literal('put-sky'), id: idSchema, fields: skyFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-sky'), id: idSchema }),
  z.strictObject({ do: z.literal('put-thread'), id: idSchema, fields: threadFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-thread'), id: idSchema }),
  z.strictObject({ do: z.literal('put-answer'), id: idSchema, fields: answerFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-answer'), id: idSchema }),
  z.strictObject({ do: z.literal('put-relation'), id: idSchema, fields: relationFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-relation'), id: idSchema }),
  z.strictObject({ do: z.literal('put-preset'), id: idSchema, fields: presetFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-preset'), id: idSchema }),
  z.strictObject({ do: z.literal('put-recipe'), id: idSchema, fields: recipeFieldsSchema.partial() }),
  z.strictObject({ do: z.literal('remove-recipe'), id: idSchema }),
])

/** Operations of a change at the most. */
export const MOST_IN_CHANGE = 200_000

/** One undoable, saved step. Its id makes sending it twice harmless. */
export const changeSchema = z.strictObject({
  id: idSchema,
  label: nameSchema,
  /** Who made it, as shown to others when two changes meet. */
  author: nameSchema,
  operations: z.array(operationSchema).min(1).max(MOST_IN_CHANGE),
})

export type PlacementFields = z.infer<typeof placementFieldsSchema>
export type Layer = z.infer<typeof layerSchema>
export type Station = z.infer<typeof stationSchema>
export type Block = z.infer<typeof blockSchema>
export type Measure = z.infer<typeof measureSchema>
export type Limit = z.infer<typeof limitSchema>
export type Exemption = z.infer<typeof exemptionSchema>
export type Sky = z.infer<typeof skySchema>
export type Thread = z.infer<typeof threadSchema>
export type Relation = z.infer<typeof relationSchema>
export type Preset = z.infer<typeof presetSchema>
export type LevelRecipe = z.infer<typeof recipeSchema>
export type Answer = z.infer<typeof answerSchema>
export type Placement = z.infer<typeof placementSchema>
export type Operation = z.infer<typeof operationSchema>
export type Change = z.infer<typeof changeSchema>

/** A saved change with its place in the level's journal. */
export type JournalEntry = Change & { revision: number }
