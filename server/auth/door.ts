import type { H3Event } from 'h3'
import { getRequestHeader } from 'h3'
import { ApiError } from '../utils/api-error'
import { doorSettings, whoAsks } from './keys'
import { BACK_PATH } from './back-path'
import { isOurHost, isOwnRequest } from './origin'
import { admit } from './rate-limits'

/** Lets in what is asked by a name the server goes by. @throws ApiError 421 */
export function checkHost(event: H3Event): void {
  if (isOurHost(getRequestHeader(event, 'host'), doorSettings.names)) return
  throw new ApiError(
    421,
    'host',
    'host: the server does not go by this name. Names besides addresses are told it by ALLOWED_HOSTS.',
    { field: 'host' },
  )
}

/**
 * Lets in what is asked by our own page or no page at all, and not too often; notes as whom they ask.
 *
 * @throws ApiError 401 for a wrong key, 403, 429, 503
 */
export async function checkAsker(event: H3Event): Promise<void> {
  const [host, origin, fetchSite] = ['host', 'origin', 'sec-fetch-site'].map(name => getRequestHeader(event, name))
  const isBack = event.method === 'GET' && event.path.split('?')[0] === BACK_PATH
  if (!isBack && !isOwnRequest({ host, origin, fetchSite }))
    throw new ApiError(403, 'origin', "origin: only this server's own pages may ask from a browser.", {
      field: 'origin',
    })
  await admit(event)
  event.context.claim = await whoAsks(event)
}
