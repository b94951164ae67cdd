// Starts Handy Grid: installs what is missing, brings up the database, builds if the sources changed, serves.
// Only Node.js's own modules may be imported here; the packages may not be there yet. Settings: see docs/running.md.
import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { networkInterfaces } from 'node:os'
import { join, resolve } from 'node:path'
import { checkNode, ensureBuild, ensurePackages } from './lib/packages.mjs'
import { checkDatabase, startPostgres } from './lib/postgres.mjs'
import { end, isFree, isRunning, root, Stop, tool, waitFor } from './lib/run.mjs'

const dev = process.argv.includes('--dev')
const host = process.env.HOST || '127.0.0.1'
const port = Number(process.env.PORT || 4600)
/** Server processes behind the one port. */
const processes = Number(process.env.PROCESSES || 1)
const folder = resolve(root, process.env.HANDY_GRID_DATA || '.data')
const note = join(folder, 'running.json')
const shown = host.includes(':') ? `[${host}]` : host
const address = `http://${shown}:${port}`

/** What has to be stopped again, the last started first. */
const stops = []
let stopping

async function main() {
  checkNode()
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new Stop(`PORT is "${process.env.PORT}"; a number from 1 to 65535 is needed.`)
  if (!Number.isInteger(processes) || processes < 1 || processes > 64)
    throw new Stop(`PROCESSES is "${process.env.PROCESSES}"; a number from 1 to 64 is needed.`)
  await claimFolder()
  if (!(await isFree(port, host)))
    throw new Stop(`Port ${port} on ${host} is taken by another program. Choose another one: PORT=4601 npm start`)
  await ensurePackages()
  let url = process.env.DATABASE_URL
  if (url) await checkDatabase(url)
  else {
    const postgres = await startPostgres(join(folder, 'postgres'))
    stops.push(postgres.stop)
    url = postgres.url
  }
  if (!dev) await ensureBuild()
  const keys = keysFor(host)
  await serve({ DATABASE_URL: url, ...keys })
  console.log(`Handy Grid is ready at ${address}`)
  if (keys.HANDY_GRID_KEY) tellKeys(keys)
}

/**
 * Beyond loopback nobody is let in without a key: those of the settings, or some that are made once and kept beside the
 * database.
 */
function keysFor(served) {
  const { HANDY_GRID_KEY, HANDY_GRID_READING_KEY } = process.env
  if (HANDY_GRID_KEY || /^(localhost|127\..*|::1)$/.test(served)) return { HANDY_GRID_KEY, HANDY_GRID_READING_KEY }
  const file = join(folder, 'keys.json')
  const made = () => randomBytes(24).toString('base64url')
  if (!existsSync(file)) writeFileSync(file, JSON.stringify({ writing: made(), reading: made() }), { mode: 0o600 })
  const { writing, reading } = JSON.parse(readFileSync(file, 'utf8'))
  return { HANDY_GRID_KEY: writing, HANDY_GRID_READING_KEY: HANDY_GRID_READING_KEY || reading }
}

function tellKeys({ HANDY_GRID_KEY, HANDY_GRID_READING_KEY }) {
  const isEverywhere = host === '0.0.0.0' || host === '::'
  const own = Object.values(networkInterfaces())
    .flat()
    .find(({ family, internal }) => family === 'IPv4' && !internal)?.address
  const link = key => `http://${isEverywhere ? (own ?? '127.0.0.1') : shown}:${port}/enter#key=${key}`
  console.log(`To work on levels:   ${link(HANDY_GRID_KEY)}`)
  if (HANDY_GRID_READING_KEY) console.log(`To look at them:     ${link(HANDY_GRID_READING_KEY)}`)
}

/** Notes that we run on this folder. @throws Stop if another start does; ends what one that was killed left behind */
async function claimFolder() {
  mkdirSync(folder, { recursive: true })
  const other = readNote()
  if (other && isRunning(other.pid) && isOurs(other.pid)) {
    throw new Stop(
      `Handy Grid is already running at ${other.address} (process ${other.pid}). Stop it there with Ctrl+C, or open that address.`,
    )
  }
  if (other?.server && isRunning(other.server) && isOurs(other.server)) await end(other.server, 'SIGTERM')
  writeNote()
  stops.push(async () => rmSync(note, { force: true }))
}

function readNote() {
  try {
    return JSON.parse(readFileSync(note, 'utf8'))
  } catch {
    return null
  }
}

function writeNote(more = {}) {
  writeFileSync(note, JSON.stringify({ pid: process.pid, address, ...more }))
}

/**
 * A process number is given out again after its process has ended; where the system tells, only a Node.js process
 * counts.
 */
function isOurs(pid) {
  try {
    return /node|nuxt/.test(readFileSync(`/proc/${pid}/cmdline`, 'utf8'))
  } catch {
    return true
  }
}

/** Starts the server and waits until it answers. One that ends by itself after that is started again. */
async function serve(settings) {
  const given = Object.fromEntries(Object.entries(settings).filter(([, value]) => value))
  const env = {
    ...process.env,
    HOST: host,
    PORT: String(port),
    NITRO_HOST: host,
    NITRO_PORT: String(port),
    NUXT_TELEMETRY_DISABLED: '1',
    ...given,
  }
  const server = dev
    ? spawn(tool('nuxt'), ['dev', '--host', host, '--port', String(port)], {
        cwd: root,
        env,
        stdio: ['ignore', 'inherit', 'inherit'],
        detached: true,
      })
    : spawn(
        process.execPath,
        processes > 1 ? ['scripts/lib/processes.mjs', String(processes)] : ['.output/server/index.mjs'],
        {
          cwd: root,
          env: { ...env, NODE_ENV: 'production' },
          stdio: ['ignore', 'ignore', 'inherit'],
          detached: true,
        },
      )
  const endServer = () => end(server.pid, 'SIGTERM')
  stops.push(endServer)
  writeNote({ server: server.pid })
  let isReady = false
  server.on('exit', (code, signal) => {
    if (stopping) return
    const why = `The server ended by itself (${signal ?? code})`
    if (!isReady) return stop(new Stop(`${why}.`))
    console.error(`${why}; it is started again.`)
    stops.splice(stops.indexOf(endServer), 1)
    setTimeout(() => stopping ?? serve(settings).catch(stop), 1000)
  })
  await waitFor(
    async () => {
      const answer = await fetch(`${address}/api/health`).catch(() => null)
      return answer?.ok || stopping
    },
    120,
    `The server does not answer at ${address}.`,
  )
  isReady = true
}

/** Stops everything in reverse order, once. */
function stop(reason) {
  stopping ??= (async () => {
    if (reason instanceof Stop) console.error(reason.message)
    else if (reason) console.error(reason)
    for (const undo of stops.reverse()) await undo().catch(error => console.error(error.message))
    process.exit(reason ? 1 : 0)
  })()
  return stopping
}

for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => stop())
// npm that is told to end does not pass it on; then our parent is gone.
const parent = process.ppid
if (process.env.npm_lifecycle_event) setInterval(() => process.ppid === parent || stop(), 500).unref()
main().catch(stop)
