import { and, desc, eq, gt, isNotNull, lt, sql } from 'drizzle-orm'
import type { Back } from '../../core/api/schema'
import { mergeOperations } from '../../core/level/merge'
import type { Operation } from '../../core/level/schema'
import type { Database, Transaction } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { changes } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { revisionOf, TooMuchHere } from './changes'

/** Bytes of inverses that are put together at once. */
const MOST_BACK = 64 * 1024 * 1024

/**
 * What takes a level back to what it was after an earlier change.
 *
 * @param most bytes of inverses that are worked with here
 * @throws ApiError 404, 422 if that is not known or too much; TooMuchHere
 */
export const goBack = (db: Database, levelId: string, to: number, most = Infinity): Promise<Back> =>
  inTransaction(db, tx => backWithin(tx, levelId, to, most), { ...ONE_MOMENT, accessMode: 'read only' })

/** The same in another process, to the bytes of the answer. */
export async function goBackJob(db: Database, { levelId, to }: { levelId: string; to: number }): Promise<Uint8Array> {
  return Buffer.from(JSON.stringify(await goBack(db, levelId, to)))
}

/** The same as a part of something that reads more of the level as of one moment. */
export async function backWithin(tx: Transaction, levelId: string, to: number, most = Infinity): Promise<Back> {
  const now = await revisionOf(tx, levelId)
  const since = and(eq(changes.levelId, levelId), gt(changes.revision, to))
  const [all] = await tx
    .select({
      bytes: sql<string>`coalesce(sum(pg_column_size(${changes.inverse})), 0)`,
      known: sql<string>`count(*) filter (where ${isNotNull(changes.inverse)})`,
    })
    .from(changes)
    .where(since)
  if (Number(all!.known) < now - to)
    throw new ApiError(422, 'not-known', 'to: what takes back changes this old was not kept.', { field: 'to' })
  if (Number(all!.bytes) > MOST_BACK)
    throw new ApiError(422, 'too-much', 'to: this is too much to go back by at once.', { field: 'to' })
  if (Number(all!.bytes) > most) throw new TooMuchHere()
  const operations: Operation[] = []
  for (let below = now + 1; below > to + 1; ) {
    const rows = await tx
      .select({ revision: changes.revision, inverse: changes.inverse })
      .from(changes)
      .where(and(since, lt(changes.revision, below)))
      .orderBy(desc(changes.revision))
      .limit(50)
    for (const { inverse } of rows) for (const operation of inverse ?? []) operations.push(operation)
    below = rows.at(-1)!.revision
  }
  return { revision: now, operations: mergeOperations(operations) }
}
