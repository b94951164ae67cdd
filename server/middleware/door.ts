import { defineEventHandler, setResponseHeader } from 'h3'
import { checkAsker, checkHost } from '../auth/door'

/**
 * Every request to the API comes through here first: asked by our name, by our own page or no page at all, not too
 * often, with a key where one is needed.
 */
export default defineEventHandler(async event => {
  setResponseHeader(event, 'cross-origin-resource-policy', 'same-origin')
  checkHost(event)
  if (event.path.startsWith('/api')) await checkAsker(event)
})
