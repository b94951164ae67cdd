import { ServerResponse, type IncomingMessage } from 'node:http'
import { createEvent } from 'h3'
import { SOCKET_PATHS } from '../../core/api/live'
import { idSchema } from '../../core/level/fields'
import { untilListening } from '../services/live/live'
import { needLevel } from '../services/levels'
import { database } from '../services/database'
import { ApiError } from '../utils/api-error'
import { knownError } from '../utils/known-error'
import { log } from '../utils/log'
import { checkAsker, checkHost } from './door'
import type { Asker } from './keys'
import { demand } from './keys'

/** What crossws lets see of a request for a socket: within, that of Node.js, which what checks requests needs. */
export type SocketRequest = { url?: string; _req?: IncomingMessage; context?: Record<string, unknown> }

/** Addresses come with their host, or without. */
export const HERE = 'http://localhost'

/** The level that an address of a socket is about; null if it is none. */
export function levelOfSocket(url: string | undefined): string | null {
  if (!url || !URL.canParse(url, HERE)) return null
  const { pathname } = new URL(url, HERE)
  for (const path of SOCKET_PATHS) {
    const [before, after] = path.split(':id') as [string, string]
    const id =
      pathname.startsWith(before) && pathname.endsWith(after) ? pathname.slice(before.length, -after.length) : ''
    const read = idSchema.safeParse(id)
    if (read.success) return read.data
  }
  return null
}

/** What who has a socket may do, as the door found it. @throws RangeError if it did not come through the door */
export function askerOf({ asker }: { asker?: unknown }): Asker {
  if (!asker) throw new RangeError('a socket that did not come through the door')
  return asker as Asker
}

/**
 * Lets a socket in by the same door as requests.
 *
 * @returns what is answered instead; nothing if it may come in
 */
export async function admitSocket(request: SocketRequest): Promise<Response | undefined> {
  const { _req: asked } = request
  if (!asked) return refusal(new ApiError(500, 'failed', 'Something went wrong on the server.'))
  // It is nobody's any more between the request and the socket.
  asked.socket.on('error', error => log.debug({ err: error }, 'a socket broke'))
  const answer = new ServerResponse(asked)
  try {
    const event = createEvent(asked, answer)
    checkHost(event)
    await checkAsker(event)
    // From here on it is heard if that ends which lets them in.
    await untilListening()
    const levelId = levelOfSocket(asked.url)
    const asker = await demand(event, 'look', levelId)
    if (levelId === null) throw new ApiError(404, 'not-found', 'There is nothing at this address.')
    await needLevel(await database(), levelId)
    Object.assign(request.context ?? {}, { asker })
    return undefined
  } catch (error) {
    const known = knownError(error)
    if (!known) log.error({ err: error, path: asked.url?.split('?')[0] }, 'a socket could not be opened')
    return refusal(known ?? new ApiError(500, 'failed', 'Something went wrong on the server.'))
  } finally {
    // Of a request that is being answered it is counted until its answer ends.
    answer.emit('close')
  }
}

const refusal = ({ status, code, message, more }: ApiError) =>
  new Response(JSON.stringify({ error: { code, message, ...more } }), {
    status,
    headers: { 'content-type': 'application/json', 'cache-control': 'no-store' },
  })
