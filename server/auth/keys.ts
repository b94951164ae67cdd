import { createHash, timingSafeEqual } from 'node:crypto'
import { setTimeout as sleep } from 'node:timers/promises'
import type { H3Event } from 'h3'
import { clearSession, getCookie, getRequestHeader, unsealSession, updateSession } from 'h3'
import { RateLimiterMemory } from 'rate-limiter-flexible'
import { z } from 'zod'
import type { RouteSpec } from '../../core/api/routes'
import { ApiError } from '../utils/api-error'
import { database } from '../services/database'
import { hasEnded, noteEnded } from '../services/sessions'
import { forwarded, whoIs } from './rate-limits'
import type { DoorSettings } from './settings'
import { readDoorSettings } from './settings'

export const doorSettings = readDoorSettings(process.env)

export type May = 'write' | 'read'

const NAME = 'handy-grid'
const DAYS = 30
const sessionData = z.object({ may: z.enum(['write', 'read']) })

/** Wrong keys from one address are answered only so often a minute; further ones are told so, and slowly. */
const wrongKeys = new RateLimiterMemory({ points: 10, duration: 60 })
/** Milliseconds. */
const SLOWLY = 1000

/** Sealed with what follows from the keys: a new key ends all sessions. */
function sessionConfig(event: H3Event, { writingKey, readingKey }: DoorSettings) {
  const isHttps = 'encrypted' in event.node.req.socket || forwarded(event, 'x-forwarded-proto') === 'https'
  return {
    name: NAME,
    maxAge: DAYS * 86_400,
    password: createHash('sha256')
      .update(JSON.stringify(['session', writingKey, readingKey]))
      .digest('hex'),
    sessionHeader: false as const,
    cookie: { httpOnly: true, sameSite: 'strict' as const, secure: isHttps, path: '/' },
  }
}

/** What who asks may do, and the session by which they may, if it is one. */
export type Asker = { may: May | null; session: string | null }

/**
 * What who asks may do, by a bearer's key or a session's cookie. Whether the session was ended is looked for by
 * `demand`.
 *
 * @throws ApiError 401 for a wrong key, 429 after too many
 */
export async function whoAsks(event: H3Event): Promise<Asker> {
  if (!doorSettings.writingKey) return { may: 'write', session: null }
  const bearer = /^Bearer +(\S+)$/i.exec(getRequestHeader(event, 'authorization') ?? '')?.[1]
  if (bearer) return { may: await checkKey(event, bearer), session: null }
  return (await readSession(event)) ?? { may: null, session: null }
}

async function readSession(event: H3Event): Promise<{ may: May; session: string } | null> {
  const sealed = getCookie(event, NAME)
  if (!sealed) return null
  try {
    const { id, data } = await unsealSession(event, sessionConfig(event, doorSettings), sealed)
    return { may: sessionData.parse(data).may, session: z.string().min(1).parse(id) }
  } catch {
    return null
  }
}

/**
 * The right key opens, whatever wrong ones came before from the same address.
 *
 * @throws ApiError 401 for a wrong key, 429 after too many from the same address
 */
async function checkKey(event: H3Event, key: string): Promise<May> {
  const found = keyMay(key, doorSettings)
  if (found) return found
  const isWithin = await wrongKeys.consume(whoIs(event)).then(
    () => true,
    () => false,
  )
  if (isWithin) throw new ApiError(401, 'wrong-key', 'This key does not open the door.', { field: 'key' })
  await sleep(SLOWLY)
  throw new ApiError(429, 'too-many', 'Too many wrong keys. Wait a minute.')
}

/** What a key allows; compared in a time that tells nothing about it. */
function keyMay(key: string, { writingKey, readingKey }: DoorSettings): May | null {
  const digest = (text: string) => createHash('sha256').update(text).digest()
  const is = (other: string | null) => other !== null && timingSafeEqual(digest(key), digest(other))
  const [writes, reads] = [is(writingKey), is(readingKey)]
  return writes ? 'write' : reads ? 'read' : null
}

/** Starts a session for whoever brings a key. @throws ApiError 401, 429 */
export async function startSession(event: H3Event, key: string): Promise<May> {
  if (!doorSettings.writingKey) return 'write'
  const may = await checkKey(event, key)
  await updateSession(event, sessionConfig(event, doorSettings), { may })
  return may
}

/** Ends a session for good: its cookie opens nothing any more, wherever it was kept. */
export async function endSession(event: H3Event): Promise<void> {
  const known = await readSession(event)
  if (known) await noteEnded(await database(), known.session, DAYS)
  await clearSession(event, sessionConfig(event, doorSettings))
}

/**
 * Lets a request through to a route.
 *
 * @throws ApiError 401 without a key, 403 with the reading key where something is written
 */
export async function demand(event: H3Event, needed: RouteSpec['may']): Promise<void> {
  if (needed === 'anyone') return
  const { may, session } = event.context.asker as Asker
  const isOver = session !== null && (await hasEnded(await database(), session))
  if (!isOver && (may === 'write' || may === needed)) return
  if (!may || isOver) throw new ApiError(401, 'key-needed', 'A key is needed here.')
  throw new ApiError(403, 'reading-only', 'The reading key changes nothing.')
}
