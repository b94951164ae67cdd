import { z } from 'zod'
import { idSchema } from '../level/fields'

/** Where pages hear of what happens in a level, by a WebSocket. */
export const LIVE_PATH = '/api/levels/:id/live'

/** Every address that is for sockets. */
export const SOCKET_PATHS: readonly string[] = [LIVE_PATH]

/**
 * What a page is told: how far a level is. What was done up to there it reads from the journal; so a message that is
 * lost costs nothing once the next one comes.
 */
export const liveMessageSchema = z.strictObject({ level: idSchema, revision: z.int().min(0) })
export type LiveMessage = z.infer<typeof liveMessageSchema>

/** What a text says, as it comes by a socket or from the database; null if it is no such message. */
export function readLiveMessage(text: string): LiveMessage | null {
  try {
    return liveMessageSchema.parse(JSON.parse(text))
  } catch {
    return null
  }
}
