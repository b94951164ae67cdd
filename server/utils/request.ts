import type { H3Event } from 'h3'
import { getQuery, getRequestHeader, getRouterParam } from 'h3'
import type { z } from 'zod'
import { idSchema } from '../../core/level/schema'
import { ApiError } from './api-error'

export const MEGABYTE = 1024 * 1024

/**
 * The bytes of a request's body.
 * @throws ApiError 413 as soon as more than `limit` bytes are announced or have come
 */
export async function readBytes(event: H3Event, limit: number): Promise<Buffer> {
  const tooLarge = () => new ApiError(413, 'too-large', `The body is larger than the ${limit / MEGABYTE} MB taken here.`, { field: 'body' })
  if (Number(getRequestHeader(event, 'content-length') ?? 0) > limit) throw tooLarge()
  const chunks: Buffer[] = []
  let length = 0
  // Without being destroyed, so that the answer to a body too large still gets out.
  for await (const chunk of event.node.req.iterator({ destroyOnReturn: false })) {
    length += (chunk as Buffer).length
    if (length > limit) throw tooLarge()
    chunks.push(chunk as Buffer)
  }
  return Buffer.concat(chunks)
}

/**
 * A JSON body that fits a schema.
 * @throws ApiError 400 if it is not JSON, 413 if it is too large, 422 with the field if it does not fit
 */
export async function readJson<T extends z.ZodType>(event: H3Event, schema: T, limit = MEGABYTE): Promise<z.output<T>> {
  const bytes = await readBytes(event, limit)
  let value: unknown
  try {
    value = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes))
  }
  catch {
    throw new ApiError(400, 'malformed', 'The body is not well-formed JSON.', { field: 'body' })
  }
  const parsed = schema.safeParse(value)
  if (!parsed.success) throw ApiError.invalid(parsed.error)
  return parsed.data
}

/** The address's parameters, if they fit a schema. @throws ApiError 422 with the field if they do not */
export function readQuery<T extends z.ZodType>(event: H3Event, schema: T): z.output<T> {
  const parsed = schema.safeParse(getQuery(event))
  if (!parsed.success) throw ApiError.invalid(parsed.error)
  return parsed.data
}

/** The route's `id`. @throws ApiError 404 if it is no UUID, for then nothing has it */
export function idParam(event: H3Event, what: string): string {
  const parsed = idSchema.safeParse(getRouterParam(event, 'id'))
  if (!parsed.success) throw ApiError.notFound(what)
  return parsed.data
}
