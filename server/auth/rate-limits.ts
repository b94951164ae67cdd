import type { H3Event } from 'h3'
import { getRequestHeader } from 'h3'
import { RateLimiterMemory } from 'rate-limiter-flexible'
import { MEGABYTE } from '../../core/api/routes'
import { ApiError } from '../utils/api-error'
import { networkOf } from './origin'
import { isLoopback } from './settings'

/** Requests from one address that is not this machine, in ten seconds. */
const rate = new RateLimiterMemory({ points: 1000, duration: 10 })
/** Requests being answered at a time: from one address that is not this machine, and in all. */
const MOST_OF_ONE = 48
const MOST_OF_ALL = 512

const inFlight = new Map<string, number>()
let all = 0

/** Bytes of bodies that are held at a time, of all requests together. */
const MOST_HELD = 512 * MEGABYTE
let held = 0

/**
 * Makes room for a request's body until it is answered.
 *
 * @param limit bytes it may have, if it does not say how many it has
 * @throws ApiError 503 if too much is held already
 */
export function makeRoom(event: H3Event, limit: number): void {
  const announced = getRequestHeader(event, 'content-length')
  const bytes = Math.min(announced === undefined ? limit : Number(announced) || 0, limit)
  if (held + bytes > MOST_HELD) throw new ApiError(503, 'busy', 'Too much is being sent at a time. Try again.')
  held += bytes
  event.node.res.once('close', () => (held -= bytes))
}

/** The address a request comes from: the one connected, or as the proxy says that is trusted. */
function addressOf(event: H3Event): string {
  return forwarded(event, 'x-forwarded-for') || event.node.req.socket.remoteAddress || ''
}

/** What the proxy says that is trusted: the last of several, which it has put there itself. */
export function forwarded(event: H3Event, header: string): string | undefined {
  return process.env.TRUST_PROXY === '1' ? getRequestHeader(event, header)?.split(',').at(-1)?.trim() : undefined
}

/**
 * Whom a request is counted to: an address, of IPv6 the network of it that one customer has (RFC 6177: at least a /64).
 */
export function whoIs(event: H3Event): string {
  return networkOf(addressOf(event))
}

/**
 * Counts a request until it is answered.
 *
 * @throws ApiError 429 or 503 if there are too many
 */
export async function admit(event: H3Event): Promise<void> {
  const address = whoIs(event)
  const isOwn = isLoopback(addressOf(event))
  if (!isOwn) {
    await rate.consume(address).catch(() => {
      throw new ApiError(429, 'too-many', 'Too many requests. Try again in a few seconds.')
    })
  }
  const ofOne = inFlight.get(address) ?? 0
  if (all >= MOST_OF_ALL || (!isOwn && ofOne >= MOST_OF_ONE))
    throw new ApiError(503, 'busy', 'Too many requests at a time. Try again.')
  all++
  inFlight.set(address, ofOne + 1)
  let isCounted = true
  const release = () => {
    if (!isCounted) return
    isCounted = false
    all--
    const left = inFlight.get(address)! - 1
    if (left > 0) inFlight.set(address, left)
    else inFlight.delete(address)
  }
  event.context.release = release
  event.node.res.once('close', release)
}

/** Counts a request no longer whose answer goes on for as long as somebody listens: others are bounded elsewhere. */
export function countNoMore(event: H3Event): void {
  ;(event.context.release as () => void)()
}
