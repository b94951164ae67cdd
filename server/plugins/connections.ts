import type { Server } from 'node:http'

/**
 * Milliseconds for a request's headers, for a request as a whole, and for a body that was refused to come to its end.
 */
const HEADERS = 15_000
const REQUEST = 300_000
const REST = 15_000
/**
 * Milliseconds that a connection is kept for the next request: longer than a caller keeps it, who would send into a
 * closed one.
 */
const KEPT = 65_000

/** What applies to connections, below all routes. */
export default defineNitroPlugin(nitroApp => {
  nitroApp.hooks.hook('request', event => {
    const { req, res } = event.node
    const server = (req.socket as typeof req.socket & { server?: Server }).server
    if (server) Object.assign(server, { headersTimeout: HEADERS, requestTimeout: REQUEST, keepAliveTimeout: KEPT })
    // Node.js sends no body in answer to HEAD, whatever is written; so a route need not know it.
    if (req.method === 'HEAD' && req.url?.startsWith('/api')) req.method = 'GET'
    res.once('finish', () => {
      if (req.complete) return
      req.resume()
      setTimeout(() => req.complete || req.socket.destroy(), REST).unref()
    })
  })
})
