import { z } from 'zod'
import { plainText } from '../../units/text'
import { colorSchema, coordinate, nameSchema, pointOnSchema, vec3Schema } from '../fields'
import type { KindDefinition } from '../kind-definition'

/** One free field, handed over as it is. */
const markerFieldSchema = z.discriminatedUnion('type', [
  z.strictObject({ key: nameSchema, type: z.literal('text'), value: plainText(2000) }),
  z.strictObject({ key: nameSchema, type: z.literal('number'), value: coordinate }),
  z.strictObject({ key: nameSchema, type: z.literal('yes-no'), value: z.boolean() }),
])

const common = {
  text: plainText(2000),
  tags: z.array(nameSchema).max(20, 'may be 20').default([]),
  fields: z
    .array(markerFieldSchema)
    .max(50, 'may be 50')
    .default([])
    .refine(fields => new Set(fields.map(({ key }) => key)).size === fields.length, 'must have a key of its own each'),
}

export const VOLUME_SHAPES = ['box', 'ball', 'cylinder'] as const

const own = z.discriminatedUnion('marker', [
  /** Faces +Z. */
  z.strictObject({ marker: z.literal('spawn'), ...common }),
  /** Of 1 m each way under its size. */
  z.strictObject({
    marker: z.literal('volume'),
    ...common,
    shape: z.enum(VOLUME_SHAPES).default('box'),
    color: colorSchema.default('#0e6e6e'),
  }),
  /** Says its text, of a thing or a point if it has an arrow. */
  z.strictObject({ marker: z.literal('note'), ...common, arrow: pointOnSchema.nullable().default(null) }),
  /** Where people walk: points in its own axes, and metres across. */
  z.strictObject({
    marker: z.literal('walk'),
    ...common,
    points: z.array(vec3Schema).min(2, 'needs two points').max(1000),
    width: z.number().min(0.1, 'must be at least 0.1 m').max(100).default(0.9),
  }),
])

export type MarkerOwn = z.infer<typeof own>
export type MarkerKind = MarkerOwn['marker']
export type MarkerField = z.infer<typeof markerFieldSchema>

/** A place that means something. */
export const marker: KindDefinition<MarkerOwn, true> = {
  own,
  first: { marker: 'note', text: '', tags: [], fields: [], arrow: null },
  name: 'Marker',
  shows: 'nothing',
  isMark: true,
  icon: 'M6 2h2v20H6zM9 3l10 4-10 4z',
  extras: ({ fields, ...own }) => ({
    marker: { ...own, fields: Object.fromEntries(fields.map(({ key, value }) => [key, value])) },
  }),
}
