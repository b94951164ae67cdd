import type { IncomingMessage } from 'node:http'
import type { z } from 'zod'
import { MEGABYTE } from '../../core/api/routes'
import { ApiError } from './api-error'

/**
 * Milliseconds without a byte after which a body is not waited for any longer, and the fewest bytes a second over all.
 */
const SILENCE = 20_000
const SLOWEST = 16 * 1024

/**
 * The bytes of a request's body.
 *
 * @throws ApiError 413 as soon as more than `limit` bytes are announced or have come; 408 if they come too slowly; 400
 *   if they end too early
 */
export async function readBytes(request: IncomingMessage, limit: number): Promise<Buffer> {
  const tooLarge = () =>
    new ApiError(413, 'too-large', `The body is larger than the ${limit / MEGABYTE} MB taken here.`, { field: 'body' })
  if (Number(request.headers['content-length'] ?? 0) > limit) throw tooLarge()
  if (request.destroyed) throw new ApiError(400, 'cut-off', 'The body ended too early.', { field: 'body' })
  const started = Date.now()
  return new Promise((resolve, reject) => {
    const chunks: Buffer[] = []
    let length = 0
    const tooSlow = () =>
      finish(() => reject(new ApiError(408, 'too-slow', 'The body came too slowly.', { field: 'body' })))
    let silence = setTimeout(tooSlow, SILENCE)
    const finish = (settle: () => void) => {
      clearTimeout(silence)
      request.off('data', onData).off('end', onEnd).off('close', onClose)
      // The rest is thrown away: a sender that is still sending would not look for the answer.
      request.resume()
      settle()
    }
    const onData = (chunk: Buffer) => {
      length += chunk.length
      if (length > limit) return finish(() => reject(tooLarge()))
      chunks.push(chunk)
      clearTimeout(silence)
      silence = setTimeout(tooSlow, SILENCE)
      if (Date.now() - started > SILENCE + (length / SLOWEST) * 1000) tooSlow()
    }
    const onEnd = () => finish(() => resolve(Buffer.concat(chunks)))
    const onClose = () =>
      finish(() => reject(new ApiError(400, 'cut-off', 'The body ended too early.', { field: 'body' })))
    request.on('data', onData).on('end', onEnd).on('close', onClose)
  })
}

/**
 * Reads JSON that fits a schema.
 *
 * @throws ApiError 400 if it is not JSON, 422 with the field if it does not fit
 */
export function parseJson<T extends z.ZodType>(bytes: Uint8Array, schema: T): z.output<T> {
  const parsed = schema.safeParse(parse(bytes))
  if (!parsed.success) throw ApiError.invalid(parsed.error)
  return parsed.data
}

function parse(bytes: Uint8Array): unknown {
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
    // Schemas drop such a key without a word. Only a text that may hold one is read the slow way.
    if (!/__proto__|\\u00[57]f/i.test(text)) return JSON.parse(text)
  } catch {
    throw malformed()
  }
  let isProto = false
  const refuse = (key: string, value: unknown) => {
    isProto ||= key === '__proto__'
    return value
  }
  let value: unknown
  try {
    value = JSON.parse(text, refuse)
  } catch {
    throw malformed()
  }
  if (isProto) throw new ApiError(422, 'invalid', 'body: "__proto__" is not taken as a name.', { field: 'body' })
  return value
}

const malformed = () => new ApiError(400, 'malformed', 'The body is not well-formed JSON.', { field: 'body' })
