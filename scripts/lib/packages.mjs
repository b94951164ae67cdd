import { createHash } from 'node:crypto'
import { existsSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { root, run, Stop, tool } from './run.mjs'

const OLDEST_NODE = [20, 20]

export function checkNode() {
  const [major, minor] = process.versions.node.split('.').map(Number)
  if (major < OLDEST_NODE[0] || (major === OLDEST_NODE[0] && minor < OLDEST_NODE[1])) {
    throw new Stop(`Node.js ${OLDEST_NODE.join('.')} or later is needed; this is ${process.versions.node}.`)
  }
}

/** Installs the npm packages if the lock file is not the one they were installed from. */
export async function ensurePackages() {
  const stamp = resolve(root, 'node_modules/.installed-from')
  const wanted = hashOf([resolve(root, 'package-lock.json')])
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  console.log('Installing the npm packages ...')
  await run('npm', ['ci', '--no-audit', '--no-fund'])
  writeFileSync(stamp, wanted)
}

/** What the application is built from, in short: the same on every machine. */
export function sourcesHash() {
  const sources = [
    'app',
    'core',
    'server',
    'demo',
    'public',
    'nuxt.config.ts',
    'vuetify.config.ts',
    'package-lock.json',
  ]
  return hashOf(sources.flatMap(name => filesIn(resolve(root, name))))
}

/** Builds the application if its sources are not the ones of the last build. */
export async function ensureBuild() {
  const stamp = resolve(root, '.output/built-from')
  const wanted = sourcesHash()
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  console.log('Building the application ...')
  await run(tool('nuxt'), ['build', '--logLevel', 'silent'], {
    env: { ...process.env, NODE_ENV: 'production', NUXT_TELEMETRY_DISABLED: '1' },
  })
  writeFileSync(stamp, wanted)
}

function filesIn(path) {
  if (!existsSync(path)) return []
  if (!statSync(path).isDirectory()) return [path]
  return readdirSync(path)
    .sort()
    .flatMap(name => filesIn(join(path, name)))
}

function hashOf(files) {
  const hash = createHash('sha256')
  for (const file of files) hash.update(file.slice(root.length)).update('\0').update(readFileSync(file)).update('\0')
  return hash.digest('hex')
}
