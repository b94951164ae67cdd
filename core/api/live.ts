import { z } from 'zod'
import { idSchema, nameSchema } from '../level/fields'
import { calledSchema, peopleMessageSchema } from './people'

/** Where pages hear of what happens in a level, by a WebSocket, and say who is before them. */
export const LIVE_PATH = '/api/levels/:id/live'

/** Where other programs hear of it by a WebSocket; by server-sent events it is the route `feed`. */
export const FEED_SOCKET_PATH = '/api/levels/:id/feed/socket'

/** Every address that is for sockets. */
export const SOCKET_PATHS: readonly string[] = [LIVE_PATH, FEED_SOCKET_PATH]

/**
 * How far a level is. What was done up to there is read from the journal; so a message that is lost costs nothing once
 * the next one comes.
 */
export const revisionSchema = z.strictObject({ level: idSchema, revision: z.int().min(0) })

/** What the level is called now, and whether it is deleted. */
export const namedSchema = z.strictObject({ level: idSchema, name: nameSchema, deleted: z.boolean() })

/** The kit is another one now, and is to be read anew. */
const kitSchema = z.strictObject({ level: idSchema, kit: z.literal(true) })

/** All that pages are told. */
export const liveMessageSchema = z.union([revisionSchema, namedSchema, kitSchema, peopleMessageSchema, calledSchema])
export type LiveMessage = z.infer<typeof liveMessageSchema>

/** What a text says by a schema; null if it is nothing of that kind. */
export function readMessage<S extends z.ZodType>(schema: S, text: string): z.output<S> | null {
  try {
    return schema.parse(JSON.parse(text))
  } catch {
    return null
  }
}

/** What a text tells a page; null if it is no such message. */
export const readLiveMessage = (text: string) => readMessage(liveMessageSchema, text)
