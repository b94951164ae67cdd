// Runs every check: lint, types, unit and reference tests, then API and end-to-end tests against the built application
// on a throwaway PostgreSQL. `npm test -- unit` (or lint, types, api, e2e) runs only what is named; `trial` is the long
// form of the made-up requests and kills that are part of the API and end-to-end tests.
import { ensureChromium } from './lib/chromium.mjs'
import { checkNode, ensureBuild, ensurePackages } from './lib/packages.mjs'
import { startThrowawayPostgres } from './lib/postgres.mjs'
import { run, Stop, tool } from './lib/run.mjs'

const named = process.argv.slice(2)
const wants = name => named.length === 0 || named.includes(name)
const took = []
let postgres

async function main() {
  checkNode()
  await ensurePackages()
  const isTrial = named.includes('trial')
  const needsBuild = wants('api') || wants('e2e') || isTrial
  // Checking the types, as building does, uses one core only, and both write into .nuxt: each goes beside something
  // else.
  await together(
    wants('lint') && part('lint', lint),
    wants('types') && part('types', () => run(tool('nuxt'), ['typecheck'])),
  )
  await together(
    wants('unit') && part('unit', () => run(tool('vitest'), ['run', '--project', 'unit'])),
    needsBuild && part('build', ensureBuild),
  )
  if (!needsBuild) return
  postgres = await startThrowawayPostgres()
  const env = { ...process.env, TEST_POSTGRES_URL: postgres.urlOf('postgres') }
  if (isTrial) {
    const long = { ...env, TRIAL: 'long', CHROMIUM: await ensureChromium() }
    await run(tool('vitest'), ['run', '--project', 'api', 'tests/trial'], { env: long })
    await run(tool('playwright'), ['test', 'never-lost'], { env: long })
  }
  if (wants('api')) await part('api', () => run(tool('vitest'), ['run', '--project', 'api'], { env }))
  if (wants('e2e'))
    await part('e2e', async () =>
      run(tool('playwright'), ['test'], { env: { ...env, CHROMIUM: await ensureChromium() } }),
    )
}

async function lint() {
  await run(tool('eslint'), ['.', '--max-warnings', '0'])
  await run(tool('depcruise'), ['app', 'core', 'server', 'demo', '--config', '.dependency-cruiser.mjs'])
}

/** Runs a part, and notes how long it took. */
async function part(name, work) {
  const start = Date.now()
  await work()
  took.push(`${name} ${((Date.now() - start) / 60_000).toFixed(1)} min`)
}

/** Waits for all of them, so that none is left running. @throws what the first that failed threw */
async function together(...parts) {
  const failed = (await Promise.allSettled(parts)).find(({ status }) => status === 'rejected')
  if (failed) throw failed.reason
}

async function cleanUp() {
  await postgres?.stop()
}

for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => cleanUp().then(() => process.exit(1)))
try {
  await main()
} catch (error) {
  console.error(error instanceof Stop ? error.message : error)
  process.exitCode = 1
}
if (took.length > 0) console.log(`Took: ${took.join(', ')}`)
await cleanUp()
