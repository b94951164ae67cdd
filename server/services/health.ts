import { askDatabase, database } from '../db/client'
import { ApiError } from '../utils/api-error'
import { Shared } from './turns'

/** Milliseconds that the database has to get ready before it counts as away. */
const SOON = 3000

const ready = new Shared(() => within(SOON, database()))
const answers = new Shared(askDatabase)

/**
 * Whether the server can do its work: the database is migrated, and answers. Asked on a connection of its own, once for all who ask,
 * so that it tells a full house from an absent database.
 *
 * @throws ApiError 503 if the database is away
 */
export async function health(): Promise<{ status: 'ok' | 'busy' }> {
  try {
    const db = await ready.get()
    await answers.get()
    return { status: db.$client.waitingCount > 0 ? 'busy' : 'ok' }
  }
  catch {
    throw new ApiError(503, 'database-away', 'The server works, but its database is away.')
  }
}

async function within<T>(milliseconds: number, work: Promise<T>): Promise<T> {
  let timer: NodeJS.Timeout | undefined
  try {
    return await Promise.race([work, new Promise<never>((_, fail) => {
      timer = setTimeout(() => fail(new Error('not ready')), milliseconds)
    })])
  }
  finally {
    clearTimeout(timer)
  }
}
