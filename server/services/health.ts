import { askDatabase } from '../db/client'
import { database } from './database'
import { ApiError } from '../utils/api-error'
import { within } from '../utils/within'
import { isLeaving, liveCounts, untilListening } from './live/live'
import { Shared } from './mutex'

/** Milliseconds that the database has to get ready before it counts as away. */
const SOON = 3000

const ready = new Shared(() => within(SOON, database(), new Error('the database is not ready'), () => {}))
const answers = new Shared(askDatabase)

/**
 * Whether the server can do its work: the database is migrated, and answers. Asked on a connection of its own, once for
 * all who ask, so that it tells a full house from an absent database.
 *
 * @throws ApiError 503 if the database is away
 */
export async function health(): Promise<{ status: 'ok' | 'busy' }> {
  try {
    const db = await ready.get()
    await answers.get()
    return { status: db.$client.waitingCount > 0 ? 'busy' : 'ok' }
  } catch {
    throw new ApiError(503, 'database-away', 'The server works, but its database is away.')
  }
}

/**
 * Whether requests may be sent here: the server does not stop, its database answers, and what other servers do is
 * heard.
 *
 * @throws ApiError 503 if not
 */
export async function readiness(): Promise<{ status: 'ready' }> {
  if (isLeaving()) throw new ApiError(503, 'stopping', 'The server stops.')
  await health()
  await untilListening()
  if (liveCounts().hearing === 0) throw new ApiError(503, 'database-away', 'The database is not listened to.')
  return { status: 'ready' }
}
