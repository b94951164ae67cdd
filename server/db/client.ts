import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import type { PgTransactionConfig } from 'drizzle-orm/pg-core'
import pg from 'pg'
import { ApiError } from '../utils/api-error'
import { log } from '../utils/log'
import { isTryAgain } from './failures'
import * as schema from './schema'

export type Connection = NodePgDatabase<typeof schema>
export type Database = Connection & { $client: pg.Pool }
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

/**
 * Milliseconds after which nothing is waited for any longer, whatever hangs: a connection, a lock, a statement, a
 * transaction left open.
 */
export const LIMITS = {
  connectionTimeoutMillis: 5000,
  lock_timeout: 20_000,
  statement_timeout: 60_000,
  query_timeout: 65_000,
  idle_in_transaction_session_timeout: 60_000,
}

/** Where the database is. */
export function connectionString(): string {
  if (!process.env.DATABASE_URL) throw new Error('DATABASE_URL is not set')
  return process.env.DATABASE_URL
}

/** Where the database itself is, past a pooler: for what needs a connection that stays. */
export function directConnectionString(): string {
  return process.env.DATABASE_DIRECT_URL || connectionString()
}

/** Up to `max` connections to the database as it is, opened as they are needed. */
export function openPool(max: number): Database {
  const pool = new pg.Pool({ connectionString: connectionString(), max, keepAlive: true, ...LIMITS })
  // A connection that breaks, idle or in use, is replaced; whoever was waiting on it is told by its own query.
  pool.on('error', error => log.warn({ err: error }, 'a database connection broke'))
  pool.on('connect', client => client.on('error', error => log.warn({ err: error }, 'a database connection broke')))
  return drizzle(pool, { schema })
}

/**
 * Does work in one transaction: all of it or nothing. Tried again when another transaction got in the way.
 *
 * Drizzle's own `transaction` on a pool never gives a connection back whose `begin` failed; here it is always given
 * back, and thrown away after any failure but our own refusals.
 */
export async function inTransaction<T>(
  db: Database,
  work: (tx: Transaction) => Promise<T>,
  config?: PgTransactionConfig,
): Promise<T> {
  for (let tries = 0; ; tries++) {
    const client = await db.$client.connect()
    let isGood = false
    try {
      const result = await drizzle(client, { schema }).transaction(work, config)
      isGood = true
      return result
    } catch (error) {
      isGood = error instanceof ApiError || error instanceof NotKept
      if (tries > 1 || !isTryAgain(error)) throw error
    } finally {
      client.release(!isGood)
    }
  }
}

/** What was worked out, of a transaction that is not to be kept. */
class NotKept<T> extends Error {
  constructor(readonly result: T) {
    super('not kept')
  }
}

/** Does the same work, and takes all of it back: what would come of it, refusals among it. */
export async function inTrial<T>(
  db: Database,
  work: (tx: Transaction) => Promise<T>,
  config?: PgTransactionConfig,
): Promise<T> {
  try {
    return await inTransaction(
      db,
      async (tx): Promise<T> => {
        throw new NotKept(await work(tx))
      },
      config,
    )
  } catch (error) {
    if (error instanceof NotKept) return error.result as T
    throw error
  }
}

/** What is read together is of one moment. */
export const ONE_MOMENT = { isolationLevel: 'repeatable read' } as const satisfies PgTransactionConfig

/**
 * Whether the database answers, asked on a connection of its own, so that a full pool does not count.
 *
 * @throws whatever keeps it from answering
 */
export async function askDatabase(): Promise<void> {
  const client = new pg.Client({
    connectionString: connectionString(),
    connectionTimeoutMillis: 2000,
    query_timeout: 2000,
  })
  client.on('error', () => {})
  try {
    await client.connect()
    await client.query('select 1')
  } finally {
    await client.end().catch(() => {})
  }
}
