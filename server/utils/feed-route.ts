import type { FeedMessage } from '../../core/api/feed'
import { journalSchema } from '../../core/api/schema'
import type { Journal } from '../../core/api/schema'
import type { Asker } from '../auth/keys'
import { letInBy } from '../auth/keys'
import { inWorker } from '../jobs/pool'
import { LITTLE, readJournal, TooMuchHere } from '../services/changes'
import { database } from '../services/database'
import { needLevel } from '../services/levels'
import { readFeed } from '../services/live/feed'
import { join, leave } from '../services/live/live'
import { ApiError } from './api-error'

/**
 * What happens in a level, for another program.
 *
 * @param after the last revision it knows
 * @param who whom its jobs are counted to
 * @throws ApiError 404, 422 if the level is not that far yet
 */
export async function openFeed(
  levelId: string,
  after: number | undefined,
  asker: Asker,
  who: string,
  signal: AbortSignal,
): Promise<AsyncGenerator<FeedMessage, void, undefined>> {
  const level = await needLevel(await database(), levelId)
  if (after !== undefined && after > level.revision)
    throw new ApiError(422, 'invalid', 'after: the level is not that far yet.', { field: 'after' })
  return readFeed(level, after, letInBy(asker), signal, {
    join: listening => join(levelId, listening),
    leave: listening => leave(levelId, listening),
    read: at => readOn(levelId, at, { who, signal }),
  })
}

async function readOn(levelId: string, after: number, terms: { who: string; signal: AbortSignal }): Promise<Journal> {
  try {
    return await readJournal(await database(), levelId, after, LITTLE)
  } catch (error) {
    if (!(error instanceof TooMuchHere)) throw error
    const bytes = await inWorker('readJournal', { levelId, after }, terms)
    return journalSchema.parse(JSON.parse(Buffer.from(bytes).toString()))
  }
}
