import { RateLimiterMemory } from 'rate-limiter-flexible'
import type { PageError } from '../../core/api/schema'
import { log } from '../utils/log'

/** Errors of pages that are logged in a minute: a page that fails everywhere must not fill the disk. */
const MOST = 60
const limiter = new RateLimiterMemory({ points: MOST, duration: 60 })

/** Writes down what went wrong in a page; of too many in a minute, that there are more. */
export async function noteError(error: PageError): Promise<void> {
  const left = await limiter.consume('all').then(
    ({ remainingPoints }) => remainingPoints,
    () => -1,
  )
  if (left < 0) return
  log.error(
    { page: error },
    left === 0 ? 'error in a page; further ones in this minute are not logged' : 'error in a page',
  )
}
