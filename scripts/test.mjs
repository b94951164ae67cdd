// Runs every check: lint, types, unit and reference tests, then API and end-to-end tests against the built application
// on a throwaway PostgreSQL. `npm test -- unit` (or lint, types, api, e2e) runs only what is named; `trial` is the long form of the
// made-up requests and kills that are part of the API and end-to-end tests.
import { ensureChromium } from './lib/chromium.mjs'
import { checkNode, ensureBuild, ensurePackages } from './lib/packages.mjs'
import { startThrowawayPostgres } from './lib/postgres.mjs'
import { run, Stop, tool } from './lib/run.mjs'

const named = process.argv.slice(2)
const wants = name => named.length === 0 || named.includes(name)
let postgres

async function main() {
  checkNode()
  await ensurePackages()
  if (wants('lint')) {
    await run(tool('eslint'), ['.', '--max-warnings', '0'])
    await run(tool('depcruise'), ['app', 'core', 'server', 'demo', '--config', '.dependency-cruiser.mjs'])
  }
  if (wants('types')) await run(tool('nuxt'), ['typecheck'])
  if (wants('unit')) await run(tool('vitest'), ['run', '--project', 'unit'])
  const isTrial = named.includes('trial')
  if (!wants('api') && !wants('e2e') && !isTrial) return
  await ensureBuild()
  postgres = await startThrowawayPostgres()
  const env = { ...process.env, TEST_POSTGRES_URL: postgres.urlOf('postgres') }
  if (isTrial) {
    const long = { ...env, TRIAL: 'long', CHROMIUM: await ensureChromium() }
    await run(tool('vitest'), ['run', '--project', 'api', 'tests/trial'], { env: long })
    await run(tool('playwright'), ['test', 'never-lost'], { env: long })
  }
  if (wants('api')) await run(tool('vitest'), ['run', '--project', 'api'], { env })
  if (wants('e2e')) await run(tool('playwright'), ['test'], { env: { ...env, CHROMIUM: await ensureChromium() } })
}

async function cleanUp() {
  await postgres?.stop()
}

for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => cleanUp().then(() => process.exit(1)))
try {
  await main()
}
catch (error) {
  console.error(error instanceof Stop ? error.message : error)
  process.exitCode = 1
}
await cleanUp()
