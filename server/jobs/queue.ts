import PgBoss from 'pg-boss'
import { z } from 'zod'
import { FORMAT_NAMES } from '../../core/formats/formats'
import { idSchema } from '../../core/level/fields'
import { database } from '../services/database'
import { log } from '../utils/log'
import type { JobResult } from './jobs'
import type { Outcome } from './outcome'
import type { LaneName } from './pool'

/** What takes long and any process of any machine may do: what is said of each, as it lies in the database. */
export const QUEUED = {
  handOver: z.strictObject({
    id: idSchema,
    format: z.enum(FORMAT_NAMES),
    query: z.record(z.string(), z.unknown()),
  }),
  checkLevel: z.strictObject({ id: idSchema, from: idSchema.optional() }),
  remakePart: z.strictObject({ id: idSchema }),
}
export type QueuedName = keyof typeof QUEUED
export type Given<N extends QueuedName> = z.output<(typeof QUEUED)[N]>
/** Where a file lies that was made: in a folder of this process, or in the database by the job that has made it. */
export type MadeFile = { folder: string; paths: string[] } | { job: string }
/** What comes of each. */
export type Result<N extends QueuedName> = N extends 'handOver'
  ? { report: JobResult<'handOver'>['report']; from: MadeFile }
  : JobResult<N>

/** What is asked for, and by which server. */
export const orderSchema = z.strictObject({
  name: z.enum(Object.keys(QUEUED) as [QueuedName, ...QueuedName[]]),
  given: z.unknown(),
  who: z.string(),
  size: z.number(),
  server: idSchema,
  ticket: idSchema.optional(),
})
export type Order = z.output<typeof orderSchema>

/** The lanes of what is queued. */
export const QUEUED_LANES = ['making', 'reading'] as const satisfies LaneName[]

/**
 * Of each lane two queues: one for what is small and asked for by who has little going, for which a process is always
 * left, and one for the rest.
 */
export const queueOf = (lane: LaneName, isMore: boolean) => (isMore ? `${lane}-more` : lane)

/** Times that a job is done again whose process was lost. */
const AGAIN = 2
/** Seconds that a job's end is waited for beyond its deadline before it counts as lost. */
const LATE = 20

/** The queue (pg-boss) over the server's own connections. */
let boss: Promise<PgBoss> | undefined

/** A failed start is tried again at the next call. @throws whatever the database says */
export function queue(): Promise<PgBoss> {
  boss ??= begin().catch((error: unknown) => {
    boss = undefined
    throw error
  })
  return boss
}

async function begin(): Promise<PgBoss> {
  const db = await database()
  const made = new PgBoss({
    db: { executeSql: (text: string, values: unknown[]) => db.$client.query(text, values) },
    schedule: false,
    archiveCompletedAfterSeconds: 600,
    deleteAfterSeconds: 600,
  })
  made.on('error', error => log.warn({ err: error }, 'the queue of jobs'))
  await made.start()
  for (const lane of QUEUED_LANES) for (const isMore of [false, true]) await made.createQueue(queueOf(lane, isMore))
  return made
}

/** @param order what is asked for, under an id of its own @throws whatever the database says */
export async function sendOrder(
  { id, queue: name, seconds }: { id: string; queue: string; seconds: number },
  order: Order,
): Promise<void> {
  const expireInSeconds = Math.ceil(seconds + LATE)
  await (
    await queue()
  ).send(name, order, {
    id,
    expireInSeconds,
    retryLimit: AGAIN,
    retryDelay: 0,
    // Whoever waited for it was lost as well.
    retentionMinutes: 5,
  })
}

const outcomeSchema: z.ZodType<Outcome<unknown>> = z.union([
  z.object({ ok: z.literal(true), value: z.unknown() }),
  z.object({
    ok: z.literal(false),
    refused: z.object({
      status: z.int(),
      code: z.string(),
      message: z.string(),
      more: z.object({ field: z.string().optional() }),
    }),
  }),
  z.object({
    ok: z.literal(false),
    failed: z.object({ name: z.string(), message: z.string(), stack: z.string().optional() }),
  }),
])

/** What has become of a job, or how far it is. @throws whatever the database says */
export async function outcomeIn(name: string, id: string): Promise<Outcome<unknown> | 'waits' | 'taken'> {
  const job = await (await queue()).getJobById(name, id)
  if (job?.state === 'completed') return outcomeSchema.parse(job.output)
  if (job?.state === 'created' || job?.state === 'retry') return 'waits'
  if (job?.state === 'active') return 'taken'
  const message = 'What was to be done was lost with the process that did it. Nothing was changed; try again.'
  return { ok: false, refused: { status: 503, code: 'busy', message, more: {} } }
}

/** Ends it; what is being done is taken up by another process. */
export async function endQueue(): Promise<void> {
  const begun = await boss?.catch(() => undefined)
  await begun?.stop({ graceful: false, close: false, wait: false })
}
