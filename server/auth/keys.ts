import { createHash, randomUUID, timingSafeEqual } from 'node:crypto'
import { setTimeout as sleep } from 'node:timers/promises'
import type { H3Event } from 'h3'
import { clearSession, getCookie, getRequestHeader, unsealSession, updateSession } from 'h3'
import { RateLimiterMemory } from 'rate-limiter-flexible'
import { z } from 'zod'
import type { Role } from '../../core/api/roles'
import { mayDo, narrowed, ROLE_WORDS, roleSchema } from '../../core/api/roles'
import type { RouteSpec } from '../../core/api/routes'
import { idSchema } from '../../core/level/fields'
import { ApiError } from '../utils/api-error'
import type { Doer } from '../services/accounts'
import { findPerson, keyHash } from '../services/accounts'
import { database } from '../services/database'
import { hasEnded, noteEnded } from '../services/sessions'
import { forwarded, whoIs } from './rate-limits'
import type { DoorSettings } from './settings'
import { readDoorSettings } from './settings'

export const doorSettings = readDoorSettings(process.env)

const NAME = 'handy-grid'
const DAYS = 30
/** By one of the keys that all who have them share, or of somebody by name with the key of that time, if by one. */
const sessionData = z.object({
  as: z.union([z.object({ role: roleSchema }), z.object({ person: idSchema, since: z.number().nullable() })]),
})
type As = z.infer<typeof sessionData>['as']

/** Wrong keys from one address are answered only so often a minute; further ones are told so, and slowly. */
const wrongKeys = new RateLimiterMemory({ points: 10, duration: 60 })
/** Milliseconds. */
const SLOWLY = 1000

/** What all sealed cookies have: sealed with what follows from the keys, so that a new key ends all. */
export function sealedBy(event: H3Event, what: string) {
  const { writingKey, readingKey } = doorSettings
  const isHttps = 'encrypted' in event.node.req.socket || forwarded(event, 'x-forwarded-proto') === 'https'
  return {
    password: createHash('sha256')
      .update(JSON.stringify([what, writingKey, readingKey]))
      .digest('hex'),
    sessionHeader: false as const,
    cookie: { httpOnly: true, sameSite: 'strict' as const, secure: isHttps, path: '/' },
  }
}

const sessionConfig = (event: H3Event) => ({ name: NAME, maxAge: DAYS * 86_400, ...sealedBy(event, 'session') })

/** Who asks: what they may do, who that is if it is somebody by name, and the session by which, if it is one. */
export type Asker = { role: Role | null; person: Doer; session: string | null }

/** As whom somebody asks, before it is looked at whether that still holds. */
export type Claim = { session: string | null; as: As | null }

/** By what somebody is let in, with the end of which what they have open ends too. */
export const letInBy = ({ session, person }: Asker): string[] =>
  [session, person?.id].filter(each => typeof each === 'string')

const NOBODY: Asker = { role: null, person: null, session: null }

/**
 * As whom somebody asks, by a bearer's key or a session's cookie.
 *
 * @throws ApiError 401 for a wrong key, 429 after too many
 */
export async function whoAsks(event: H3Event): Promise<Claim> {
  if (!doorSettings.writingKey) return { session: null, as: { role: 'keep' } }
  const bearer = /^Bearer +(\S+)$/i.exec(getRequestHeader(event, 'authorization') ?? '')?.[1]
  if (bearer) return { session: null, as: await checkKey(event, bearer) }
  return (await readSession(event)) ?? { session: null, as: null }
}

async function readSession(event: H3Event): Promise<{ as: As; session: string } | null> {
  const sealed = getCookie(event, NAME)
  if (!sealed) return null
  try {
    const { id, data } = await unsealSession(event, sessionConfig(event), sealed)
    return { as: sessionData.parse(data).as, session: z.string().min(1).parse(id) }
  } catch {
    return null
  }
}

/** Who asks really, as of now. @param levelId where they want to do something */
async function prove({ session, as }: Claim, levelId: string | null): Promise<Asker> {
  if (!as) return NOBODY
  const [isOver, person] = await Promise.all([
    session !== null && database().then(db => hasEnded(db, session)),
    'person' in as ? database().then(db => findPerson(db, { id: as.person }, levelId)) : null,
  ])
  if (isOver) return NOBODY
  if ('role' in as) return { role: as.role, person: null, session }
  // A session ends with the key it was begun with.
  if (!person || (person.keyMadeAt?.getTime() ?? null) !== as.since) return NOBODY
  const { id, name, role, inLevel } = person
  return { role: narrowed(role, inLevel), person: { id, name }, session }
}

/**
 * The right key opens, whatever wrong ones came before from the same address.
 *
 * @throws ApiError 401 for a wrong key, 429 after too many from the same address
 */
async function checkKey(event: H3Event, key: string): Promise<As> {
  const role = sharedKey(key, doorSettings)
  if (role) return { role }
  const person = await findPerson(await database(), { keyHash: keyHash(key) })
  if (person) return { person: person.id, since: person.keyMadeAt?.getTime() ?? null }
  const isWithin = await wrongKeys.consume(whoIs(event)).then(
    () => true,
    () => false,
  )
  if (isWithin) throw new ApiError(401, 'wrong-key', 'This key does not open the door.', { field: 'key' })
  await sleep(SLOWLY)
  throw new ApiError(429, 'too-many', 'Too many wrong keys. Wait a minute.')
}

/** What one of the shared keys allows; compared in a time that tells nothing about it. */
function sharedKey(key: string, { writingKey, readingKey }: DoorSettings): Role | null {
  const digest = (text: string) => createHash('sha256').update(text).digest()
  const is = (other: string | null) => other !== null && timingSafeEqual(digest(key), digest(other))
  const [writes, reads] = [is(writingKey), is(readingKey)]
  return writes ? 'keep' : reads ? 'look' : null
}

/** Starts a session for whoever brings a key. @throws ApiError 401, 429 */
export async function startSession(event: H3Event, key: string): Promise<Asker> {
  if (!doorSettings.writingKey) return { role: 'keep', person: null, session: null }
  return beginSession(event, await checkKey(event, key))
}

/** Starts a session with a name of its own, whatever one the browser has: that may have ended. */
export async function beginSession(event: H3Event, as: As): Promise<Asker> {
  const fresh = { id: randomUUID(), createdAt: Date.now(), data: {} }
  event.context.sessions = { ...event.context.sessions, [NAME]: fresh }
  await updateSession(event, sessionConfig(event), { as })
  return prove({ session: fresh.id, as }, null)
}

/** Ends a session for good: its cookie opens nothing any more, wherever it was kept. */
export async function endSession(event: H3Event): Promise<void> {
  const known = await readSession(event)
  if (known) await noteEnded(await database(), known.session, DAYS)
  await clearSession(event, sessionConfig(event))
}

/**
 * Lets a request through to what it is about.
 *
 * @param levelId the level that is, if it is one
 * @throws ApiError 401 without a key, 403 for who may do less, 404 for a level that is not there for them
 */
export async function demand(event: H3Event, needed: RouteSpec['may'], levelId: string | null): Promise<Asker> {
  if (needed === 'anyone') return NOBODY
  const asker = await prove(event.context.claim as Claim, levelId)
  if (mayDo(asker.role, needed)) return asker
  if (asker.role)
    throw new ApiError(403, 'role', `This is for ${ROLE_WORDS[needed]}; yours is ${ROLE_WORDS[asker.role]}.`)
  if (asker.person && levelId) throw ApiError.notFound('level')
  throw new ApiError(401, 'key-needed', 'A key is needed here.')
}
