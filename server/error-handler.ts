import type { NitroErrorHandler } from 'nitropack'
import { send, setResponseHeader, setResponseStatus } from 'h3'
import { ApiError } from './utils/api-error'
import { log } from './utils/log'

/** Every failure of a route leaves as JSON in one form, without stack traces; what was not expected goes to the log. */
const handler: NitroErrorHandler = (error, event) => {
  const cause = error.cause instanceof ApiError ? error.cause : error instanceof ApiError ? error : undefined
  const status = cause?.status ?? error.statusCode ?? 500
  if (status >= 500) log.error({ err: error.cause ?? error, method: event.method, path: event.path }, 'request failed')
  const body = cause
    ? { code: cause.code, message: cause.message, ...cause.more }
    : status === 404
      ? { code: 'not-found', message: 'There is nothing at this address.' }
      : status === 405
        ? { code: 'method', message: 'This address does not take that method.' }
        : { code: 'failed', message: 'Something went wrong on the server. Nothing was changed.' }
  if (event.handled) return
  setResponseStatus(event, status)
  setResponseHeader(event, 'content-type', 'application/json')
  // The rest of a body that was refused half-way is not waited for.
  if (status === 413) setResponseHeader(event, 'connection', 'close')
  return send(event, JSON.stringify({ error: body }))
}

export default handler
