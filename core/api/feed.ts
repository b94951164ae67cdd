import { z } from 'zod'
import { idSchema, nameSchema, quatSchema, scaleSchema, vec3Schema } from '../level/fields'
import { changeSchema } from '../level/schema'
import { revisionSchema } from './schema'

// What other programs are told of a level, one JSON object after the other: by server-sent events (HTML standard, 9.2)
// or by a WebSocket. Its schema is published as docs/live.schema.json.

export const feedQuerySchema = z.strictObject({
  /** The last revision that is known: what was done since is told first. From now on when left out. */
  after: z.coerce.number().pipe(revisionSchema).optional(),
})

/** A thing while somebody drags it: where it would be in the axes of what it hangs from. */
const movingSchema = z.object({
  id: idSchema,
  parentId: idSchema.nullable(),
  translation: vec3Schema,
  rotation: quatSchema,
  scale: scaleSchema,
  pivot: vec3Schema,
})

export const feedMessageSchema = z.discriminatedUnion('kind', [
  /** Said first: what is told from here on was done after this revision. */
  z.object({ kind: z.literal('begin'), revision: revisionSchema, name: nameSchema }),
  /** A change, in order and without a gap. */
  z.object({ kind: z.literal('change'), revision: revisionSchema, change: changeSchema }),
  /** Somebody drags things, some times a second; none any more once they are let go of. */
  z.object({
    kind: z.literal('moving'),
    by: z.object({ id: idSchema, name: nameSchema }),
    things: z.array(movingSchema),
  }),
  /** The level has another name, or is deleted or brought back. */
  z.object({ kind: z.literal('named'), name: nameSchema, deleted: z.boolean() }),
  /** Parts of the kit are others than before. */
  z.object({ kind: z.literal('kit') }),
  /** Nothing has happened: said every 20 seconds, so that a connection that has broken is noticed. */
  z.object({ kind: z.literal('still'), revision: revisionSchema }),
])
export type FeedMessage = z.infer<typeof feedMessageSchema>

/** The schema of what is told, as it is published (JSON Schema 2020-12). */
export function feedJsonSchema(): object {
  return { title: 'What the live feed of a level tells', ...z.toJSONSchema(feedMessageSchema) }
}

/** A message as an event; of a change its revision is the event's id, by which a browser comes back. */
export function asEvent(message: FeedMessage): string {
  const id = message.kind === 'change' || message.kind === 'begin' ? `id: ${message.revision}\n` : ''
  return `${id}event: ${message.kind}\ndata: ${JSON.stringify(message)}\n\n`
}
