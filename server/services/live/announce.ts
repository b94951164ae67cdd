import { sql } from 'drizzle-orm'
import { z } from 'zod'
import { namedSchema, revisionSchema } from '../../../core/api/live'
import { progressSchema } from '../../../core/api/schema'
import { calledSchema, personUpdateSchema } from '../../../core/api/people'
import { idSchema } from '../../../core/level/fields'
import type { Transaction } from '../../db/client'

/** What all servers of one database listen to. */
export const CHANNEL = 'handy_grid'

/** Bytes that the database takes at a time: its manual has 8000, with the end of the text (NOTIFY). */
export const LONGEST_ANNOUNCED = 7999

const personThere = { level: idSchema, id: idSchema }

/** What servers tell each other of the people whom each has with it. */
export const ofPeopleSchema = z.union([
  z.strictObject({
    server: idSchema,
    people: z.array(personUpdateSchema.extend({ level: idSchema })),
    gone: z.array(z.strictObject(personThere)),
    /** What was told of that server's people before is not so any more. */
    anew: z.literal(true).optional(),
  }),
  z.strictObject({ server: idSchema, called: calledSchema }),
  /** One begins and wants to know who is with the others; one is still there; one ends. */
  z.strictObject({ server: idSchema, is: z.enum(['new', 'there', 'over']) }),
])
export type OfPeople = z.infer<typeof ofPeopleSchema>

/** All that servers tell each other. */
export const announcementSchema = z.union([
  revisionSchema,
  namedSchema,
  /** The kit is another, in all levels. */
  z.strictObject({ kit: z.literal(true) }),
  /** A session has ended, or somebody may do something else from now on, by their id. */
  z.strictObject({ ended: z.string().min(1) }),
  /** How far something is that a server does; null if it is over. */
  z.strictObject({ ticket: idSchema, progress: progressSchema.nullable() }),
  /** A job waits to be taken; one is being done, is done, or nobody waits for it any more. */
  z.strictObject({ job: idSchema, is: z.enum(['new', 'going', 'done', 'left']) }),
  ofPeopleSchema,
])
export type Announcement = z.infer<typeof announcementSchema>

/** Lets all servers know, once the transaction is kept. */
export async function announce(tx: Pick<Transaction, 'execute'>, said: Announcement): Promise<void> {
  await tx.execute(sql`select pg_notify(${CHANNEL}, ${JSON.stringify(said)})`)
}
