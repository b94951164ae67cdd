import { defineEventHandler, getRequestHeader, setResponseHeader } from 'h3'
import { admit } from '../auth/rate-limits'
import { doorSettings, whoAsks } from '../auth/keys'
import { isOurHost, isOwnRequest } from '../auth/origin'
import { ApiError } from '../utils/api-error'

/**
 * Every request to the API comes through here first: asked by our name, by our own page or no page at all, not too
 * often, with a key where one is needed.
 */
export default defineEventHandler(async event => {
  setResponseHeader(event, 'cross-origin-resource-policy', 'same-origin')
  const host = getRequestHeader(event, 'host')
  if (!isOurHost(host, doorSettings.names))
    throw new ApiError(
      421,
      'host',
      'host: the server does not go by this name. Names besides addresses are told it by ALLOWED_HOSTS.',
      { field: 'host' },
    )
  if (!event.path.startsWith('/api')) return
  const origin = getRequestHeader(event, 'origin')
  if (!isOwnRequest({ host, origin, fetchSite: getRequestHeader(event, 'sec-fetch-site') })) {
    throw new ApiError(403, 'origin', "origin: only this server's own pages may ask from a browser.", {
      field: 'origin',
    })
  }
  await admit(event)
  event.context.asker = await whoAsks(event)
})
