import { eq, lt } from 'drizzle-orm'
import type { Database } from '../db/client'
import { endedSessions } from '../db/schema'
import { announce } from './live/announce'

/** Notes that a session is over. @param days after which its cookie is of no use by itself */
export async function noteEnded(db: Database, id: string, days: number): Promise<void> {
  await db.insert(endedSessions).values({ id }).onConflictDoNothing()
  await announce(db, { ended: id })
  await db.delete(endedSessions).where(lt(endedSessions.endedAt, new Date(Date.now() - days * 86_400_000)))
}

/** Whether a session was ended, by whichever server. */
export async function hasEnded(db: Database, id: string): Promise<boolean> {
  return (await db.select({ id: endedSessions.id }).from(endedSessions).where(eq(endedSessions.id, id))).length > 0
}
