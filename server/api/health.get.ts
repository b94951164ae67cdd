import { sql } from 'drizzle-orm'
import { database } from '../db/client'

/** Whether the server can do its work: it answers only once the database is migrated and reachable. */
export default defineEventHandler(async () => {
  await (await database()).execute(sql`select 1`)
  return { status: 'ok' }
})
