// What went wrong with the database, by PostgreSQL's error codes (its documentation, appendix A) and Node.js's.

/** Codes by which the database is not there, or not any more. */
const AWAY =
  /^(ECONNREFUSED|ECONNRESET|ENOTFOUND|EHOSTUNREACH|ETIMEDOUT|EPIPE|EAI_AGAIN|08\w{3}|57P0[1-5]|3D000|28\w{3})$/
/**
 * Codes by which it has too much to do: out of connections or memory, a lock or a statement that took too long, others
 * always first.
 */
const BUSY = /^(53\w{3}|55P03|57014|25P03|40001|40P01)$/
/** Codes by which there is no room left: the database's disk, or the server's own. */
const FULL = /^(53100|ENOSPC|EDQUOT)$/
/** Two transactions met, and one has to be done again. */
const TRY_AGAIN = /^(40001|40P01)$/

const AWAY_WORDS =
  /Connection terminated|connection timeout|Client has encountered a connection error|Client was closed/i
const BUSY_WORDS = /timeout exceeded when trying to connect|Query read timeout/i

/** Of a failure and what it was caused by, the codes and words. */
function* causes(error: unknown): Generator<{ code: string; message: string }> {
  for (let at = error, depth = 0; at instanceof Error && depth < 5; at = at.cause, depth++) {
    yield { code: 'code' in at ? String(at.code) : '', message: at.message }
    if (at instanceof AggregateError) for (const inner of at.errors) yield* causes(inner)
  }
}

/** Whether the database is away, has too much to do, or no room; null if it is none of these. */
export function databaseTrouble(error: unknown): 'away' | 'busy' | 'full' | null {
  for (const { code, message } of causes(error)) {
    if (FULL.test(code)) return 'full'
    if (AWAY.test(code) || AWAY_WORDS.test(message)) return 'away'
    if (BUSY.test(code) || BUSY_WORDS.test(message)) return 'busy'
  }
  return null
}

export function isTryAgain(error: unknown): boolean {
  return [...causes(error)].some(({ code }) => TRY_AGAIN.test(code))
}

/** Something else still names what was to be removed, or what was named is not there. */
export function isForeignKeyViolation(error: unknown): boolean {
  return [...causes(error)].some(({ code }) => code === '23503')
}
