import { sql } from 'drizzle-orm'
import { drizzle } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import pg from 'pg'
import type { Database } from '../db/client'
import { directConnectionString, LIMITS, openPool } from '../db/client'
import * as schema from '../db/schema'
import { log } from '../utils/log'
import { mendLevels } from './mend'
import { seedWhenEmpty } from './seed'

/** Any number; only that all server processes of one database take the same. */
const START_LOCK = 4711_2026

let ready: Promise<Database> | undefined

/** The database, migrated and with the demo in it if it was empty. A failed start is tried again at the next call. */
export function database(): Promise<Database> {
  ready ??= open().catch((error: unknown) => {
    ready = undefined
    throw error
  })
  return ready
}

let pool: Database['$client'] | undefined

/** Connections to the database: all, idle ones, and how many requests wait for one. */
export const poolCounts = () => ({
  all: pool?.totalCount ?? 0,
  idle: pool?.idleCount ?? 0,
  waiting: pool?.waitingCount ?? 0,
})

async function open(): Promise<Database> {
  const db = openPool(10)
  try {
    await prepare()
  } catch (error) {
    await db.$client.end()
    throw error
  }
  pool = db.$client
  return db
}

/** One process at a time migrates and seeds, on a connection of its own that holds the lock and may take its time. */
async function prepare(): Promise<void> {
  const pool = new pg.Pool({
    connectionString: directConnectionString(),
    max: 1,
    connectionTimeoutMillis: LIMITS.connectionTimeoutMillis,
  })
  pool.on('error', error => log.warn({ err: error }, 'a database connection broke'))
  try {
    const client = await pool.connect()
    client.on('error', error => log.warn({ err: error }, 'a database connection broke'))
    try {
      const db = drizzle(client, { schema })
      await db.execute(sql`select pg_advisory_lock(${START_LOCK})`)
      await migrate(db, { migrationsFolder: 'server/db/migrations' })
      await mendLevels(db)
      await seedWhenEmpty(db)
    } finally {
      client.release(true)
    }
  } finally {
    await pool.end()
  }
}
