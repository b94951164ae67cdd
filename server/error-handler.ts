import type { NitroErrorHandler } from 'nitropack'
import { send, setResponseHeader, setResponseStatus } from 'h3'
import { ApiError } from './utils/api-error'
import { knownError } from './utils/known-error'
import { log } from './utils/log'

/** Every failure of a route leaves as JSON in one form, without stack traces; what was not expected goes to the log. */
const handler: NitroErrorHandler = (error, event) => {
  const known = asApiError(error.cause instanceof ApiError ? error.cause : error, error.statusCode)
  if (known.status >= 500)
    log.error({ err: error.cause ?? error, method: event.method, path: event.path.split('?')[0] }, 'request failed')
  if (event.handled) return
  setResponseStatus(event, known.status)
  setResponseHeader(event, 'content-type', 'application/json')
  setResponseHeader(event, 'cache-control', 'no-store')
  if (known.status === 429 || known.status === 503) setResponseHeader(event, 'retry-after', 1)
  if (known.status === 401) setResponseHeader(event, 'www-authenticate', 'Bearer')
  return send(event, JSON.stringify({ error: { code: known.code, message: known.message, ...known.more } }))
}

function asApiError(error: unknown, status: number | undefined): ApiError {
  const known = knownError(error)
  if (known) return known
  if (status === 404) return new ApiError(404, 'not-found', 'There is nothing at this address.')
  if (status === 426) return new ApiError(426, 'upgrade', 'This address is for a WebSocket.')
  if (status === 405) return new ApiError(405, 'method', 'This address does not take that method.')
  return new ApiError(500, 'failed', 'Something went wrong on the server. Nothing was changed.')
}

export default handler
