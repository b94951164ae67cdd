import type { EventHandler, H3Event } from 'h3'
import { defineEventHandler, getQuery, getRequestHeader, getRouterParam } from 'h3'
import type { z } from 'zod'
import type { RouteName, Routes, RouteSpec } from '../../core/api/routes'
import { ROUTES } from '../../core/api/routes'
import { idSchema } from '../../core/level/fields'
import type { Database } from '../db/client'
import { database } from '../services/database'
import type { Role } from '../../core/api/roles'
import type { Asker } from '../auth/keys'
import { demand, doorSettings } from '../auth/keys'
import { makeRoom, whoIs } from '../auth/rate-limits'
import { ApiError } from './api-error'
import { parseJson, readBytes } from './body'
import { countRequest } from './metrics'
import { reply } from './reply'
import { within } from './within'

type Body<N extends RouteName> = Routes[N] extends { body: { as: 'json'; schema: infer S extends z.ZodType } }
  ? z.output<S>
  : never
type Query<N extends RouteName> = Routes[N] extends { query: infer S extends z.ZodType } ? z.output<S> : undefined

/**
 * What a route is given. The body is read and checked when it is asked for: what it is about may be looked for first.
 */
export type Asked<N extends RouteName> = {
  event: H3Event
  db: () => Promise<Database>
  /** The address's `:id`, a UUID. */
  id: string
  query: Query<N>
  body: () => Promise<Body<N>>
  bytes: () => Promise<Buffer>
  /** Who asks, and what they may do; in the level, of a route that is about one. */
  asker: Asker
  /** The same in another level than the route's own; who may not is refused. */
  askerIn: (levelId: string, needed: Role) => Promise<Asker>
  /** For jobs in other processes: who asks, and the end of their waiting. */
  terms: { who: string; signal: AbortSignal }
}

/** Milliseconds after which an answer is not waited for any longer. */
const LONGEST = 110_000

/**
 * Answers one route of the table: its query, content type and body are what the table says, or the request is refused.
 * So is whoever may not ask.
 *
 * @param status of success
 */
export function defineRoute<N extends RouteName>(
  name: N,
  answer: (asked: Asked<N>) => Promise<unknown>,
  status = 200,
): EventHandler {
  const spec: RouteSpec = ROUTES[name]
  return defineEventHandler(async event => {
    const began = performance.now()
    event.node.res.once('close', () =>
      countRequest(name, event.node.res.statusCode, (performance.now() - began) / 1000),
    )
    const isOfLevel = spec.path.startsWith('/api/levels/:id')
    const asker = await demand(event, spec.may, isOfLevel ? idOf(event, spec) : null)
    const bytes = async () => {
      checkContentType(event, spec)
      const limit = spec.body?.limit === 'file' ? doorSettings.largestFile : (spec.body?.limit ?? 0)
      makeRoom(event, limit)
      return readBytes(event.node.req, limit)
    }
    const waiting = new AbortController()
    event.node.res.once('close', () => waiting.abort())
    const asked: Asked<N> = {
      event,
      db: database,
      asker,
      askerIn: (levelId, needed) => demand(event, needed, levelId),
      id: spec.path.includes(':id') ? idOf(event, spec) : '',
      query: (spec.query ? queryOf(event, spec.query) : undefined) as Query<N>,
      bytes,
      terms: { who: whoIs(event), signal: waiting.signal },
      body: async () =>
        spec.body?.as === 'json' ? (parseJson(await bytes(), spec.body.schema) as Body<N>) : (undefined as Body<N>),
    }
    await reply(
      event,
      await within(LONGEST, answer(asked), new ApiError(503, 'busy', 'This took too long. Try again later.'), () =>
        waiting.abort(),
      ),
      status,
    )
  })
}

/** What an address's id is of, by the first of its path. */
const WHAT: Readonly<Record<string, string>> = {
  parts: 'part',
  entries: 'entry',
  people: 'person',
  milestones: 'milestone',
}

function idOf(event: H3Event, spec: RouteSpec): string {
  const parsed = idSchema.safeParse(getRouterParam(event, 'id'))
  if (!parsed.success) throw ApiError.notFound(WHAT[spec.path.split('/')[2]!] ?? 'level')
  return parsed.data
}

function queryOf(event: H3Event, schema: z.ZodType): unknown {
  const parsed = schema.safeParse(getQuery(event))
  if (!parsed.success) throw ApiError.invalid(parsed.error, 'query')
  return parsed.data
}

/**
 * A form of a foreign page cannot send these content types without being asked first (Fetch standard, CORS-safelisted
 * request headers).
 */
function checkContentType(event: H3Event, { body }: RouteSpec): void {
  const types = body?.as === 'bytes' ? body.types : ['application/json']
  const given = (getRequestHeader(event, 'content-type') ?? '').split(';')[0]!.trim().toLowerCase()
  if (!types.includes(given))
    throw new ApiError(415, 'content-type', `content-type: has to be ${types.join(' or ')}.`, { field: 'content-type' })
}
