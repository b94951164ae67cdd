// Serves the page beside this file, three.js, and what a Handy Grid server answers, so that it is all of one origin:
// node examples/live-viewer/serve.mjs [--server http://127.0.0.1:4600] [--port 4680], with its key in HANDY_GRID_KEY.
import { readFile } from 'node:fs/promises'
import { createServer } from 'node:http'
import { extname, join, normalize } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { fileURLToPath } from 'node:url'
import { parseArgs } from 'node:util'

const { values } = parseArgs({
  options: { server: { type: 'string', default: 'http://127.0.0.1:4600' }, port: { type: 'string', default: '4680' } },
})
const here = fileURLToPath(new URL('.', import.meta.url))
const three = fileURLToPath(new URL('../../node_modules/three/', import.meta.url))
const TYPES = { '.html': 'text/html; charset=utf-8', '.js': 'text/javascript' }

async function answer(request, response) {
  const { pathname, search } = new URL(request.url, 'http://localhost')
  if (pathname.startsWith('/api/')) return passOn(pathname + search, request, response)
  const path = normalize(decodeURIComponent(pathname))
  const file = path === '/' ? join(here, 'index.html') : path.startsWith('/three/') ? join(three, path.slice(7)) : null
  if (!file || !TYPES[extname(file)]) return response.writeHead(404).end()
  response.writeHead(200, { 'content-type': TYPES[extname(file)] }).end(await readFile(file))
}

/** What is asked of the server, with the key, which the page never sees; only reading is passed on. */
async function passOn(path, request, response) {
  if (request.method !== 'GET') return response.writeHead(405).end()
  const gone = new AbortController()
  response.once('close', () => gone.abort())
  const key = process.env.HANDY_GRID_KEY
  const known = request.headers['last-event-id']
  const asked = await fetch(new URL(path, values.server), {
    headers: { ...(key && { authorization: `Bearer ${key}` }), ...(known && { 'last-event-id': known }) },
    signal: gone.signal,
  })
  response.writeHead(asked.status, { 'content-type': asked.headers.get('content-type') ?? 'application/octet-stream' })
  await pipeline(Readable.fromWeb(asked.body), response)
}

const server = createServer((request, response) => {
  answer(request, response).catch(error => {
    if (!response.headersSent) response.writeHead(502, { 'content-type': 'text/plain' })
    response.end(error.name === 'AbortError' ? '' : `${error.message}\n`)
  })
})
server.listen(Number(values.port), '127.0.0.1', () =>
  console.log(`The viewer is ready at http://127.0.0.1:${server.address().port}`),
)
