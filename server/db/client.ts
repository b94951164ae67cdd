import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import { sql } from 'drizzle-orm'
import pg from 'pg'
import { seedWhenEmpty } from '../services/seed'
import { log } from '../utils/log'
import * as schema from './schema'

export type Database = NodePgDatabase<typeof schema>
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

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

async function open(): Promise<Database> {
  const connectionString = process.env.DATABASE_URL
  if (!connectionString) throw new Error('DATABASE_URL is not set')
  const pool = new pg.Pool({ connectionString, max: 10 })
  // A connection that breaks while idle is replaced; the next query reports it if the database is really gone.
  pool.on('error', error => log.warn({ err: error }, 'a database connection broke'))
  const db = drizzle(pool, { schema })
  try {
    await prepare(pool)
  }
  catch (error) {
    await pool.end()
    throw error
  }
  return db
}

/** One process at a time migrates and seeds, on a connection of its own that holds the lock. */
async function prepare(pool: pg.Pool): Promise<void> {
  const client = await pool.connect()
  try {
    const db = drizzle(client, { schema })
    await db.execute(sql`select pg_advisory_lock(${START_LOCK})`)
    await migrate(db, { migrationsFolder: 'server/db/migrations' })
    await seedWhenEmpty(db)
    await db.execute(sql`select pg_advisory_unlock(${START_LOCK})`)
  }
  finally {
    client.release(true)
  }
}
