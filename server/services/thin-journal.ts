import { and, isNotNull, lt, sql } from 'drizzle-orm'
import type { Connection } from '../db/client'
import { changes } from '../db/schema'
import { log } from '../utils/log'

/** Changes that are thinned in one statement: others save in between. */
const AT_ONCE = 20_000
const DAY = 24 * 3600 * 1000
const [LEAST, MOST] = [1, 36_500]

/**
 * The days after which it is thrown away what takes a change back; null if that is kept for good.
 *
 * @throws Error if the setting is no number of days
 */
export function readKeptDays(env: Record<string, string | undefined>): number | null {
  if (!env.HANDY_GRID_KEEP_DAYS) return null
  const days = Number(env.HANDY_GRID_KEEP_DAYS)
  if (!(days >= LEAST && days <= MOST))
    throw new Error(`HANDY_GRID_KEEP_DAYS has to be a number of days from ${LEAST} to ${MOST}.`)
  return days
}

/**
 * Throws away what takes changes back that are older than so many days. Who did what and when stays in the list, which
 * says how far back a level can go. How many it were is said in the log.
 */
export async function thinJournal(db: Connection, days: number, now = Date.now()): Promise<number> {
  const before = new Date(now - days * DAY)
  let thinned = 0
  for (let some = AT_ONCE; some === AT_ONCE; thinned += some) {
    const old = db
      .select({ row: sql`ctid` })
      .from(changes)
      .where(and(isNotNull(changes.inverse), lt(changes.madeAt, before)))
      .limit(AT_ONCE)
    some =
      (
        await db
          .update(changes)
          .set({ inverse: null })
          .where(sql`ctid = any(array(${old}))`)
      ).rowCount ?? 0
  }
  if (thinned > 0)
    log.warn({ changes: thinned, days }, 'what takes old changes back was thrown away, as HANDY_GRID_KEEP_DAYS says')
  return thinned
}

/** Does that now and once a day, until the answer is called. */
export function keepThin(database: () => Promise<Connection>, days: number): () => void {
  const thin = () =>
    void database()
      .then(db => thinJournal(db, days))
      .catch((error: unknown) => log.error({ err: error }, 'the journal was not thinned'))
  thin()
  const daily = setInterval(thin, DAY)
  daily.unref()
  return () => clearInterval(daily)
}
