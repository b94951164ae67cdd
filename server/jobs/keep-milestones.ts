import { database } from '../services/database'
import { pendingMilestones, thinMilestones } from '../services/milestones'
import { ApiError } from '../utils/api-error'
import { log } from '../utils/log'
import { inWorker } from './pool'

// What levels were like at their milestones is written down after those were made: nobody waits for it, and until then
// the journal knows it.

/** Milliseconds between two looks at what was not written down yet, and two times that old ones are let go of. */
const [LOOK, THIN] = [60_000, 3_600_000]
/** Written down at one look, one after the other. */
const AT_ONCE = 20

/** Those that cannot be written down, such as for want of what takes old changes back: that is said once. */
const hopeless = new Set<string>()

/** Writes a milestone down as soon as there is a process for it. */
export function keepSoon(id: string): void {
  void keep(id)
}

async function keep(id: string): Promise<void> {
  try {
    await inWorker('keepMilestone', { id }, { who: 'milestones' })
  } catch (error) {
    // Deleted meanwhile, or too busy: the next look finds what there is.
    if (error instanceof ApiError && (error.status === 404 || error.status === 503)) return
    hopeless.add(id)
    log.error({ err: error, milestone: id }, 'what a level was like at a milestone could not be written down')
  }
}

/** Does what is to be done for milestones from time to time, until the answer is called. */
export function tendMilestones(): () => void {
  let isAtIt = false
  const look = async () => {
    if (isAtIt) return
    isAtIt = true
    try {
      const pending = await pendingMilestones(await database(), AT_ONCE + hopeless.size)
      for (const id of pending) if (!hopeless.has(id)) await keep(id)
    } catch (error) {
      log.warn({ err: error }, 'milestones were not looked at')
    }
    isAtIt = false
  }
  const thin = () =>
    void database()
      .then(db => thinMilestones(db))
      .catch((error: unknown) => log.warn({ err: error }, 'old milestones were not let go of'))
  const timers = [setInterval(() => void look(), LOOK), setInterval(thin, THIN)]
  for (const timer of timers) timer.unref()
  return () => timers.forEach(clearInterval)
}
