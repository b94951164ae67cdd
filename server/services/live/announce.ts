import { sql } from 'drizzle-orm'
import type { LiveMessage } from '../../../core/api/live'
import type { Transaction } from '../../db/client'

/** What all servers of one database listen to. */
export const CHANNEL = 'handy_grid_levels'

/** Lets all servers know how far a level is, once the transaction is kept. */
export async function announce(tx: Transaction, message: LiveMessage): Promise<void> {
  await tx.execute(sql`select pg_notify(${CHANNEL}, ${JSON.stringify(message)})`)
}
