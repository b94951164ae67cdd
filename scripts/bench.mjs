// Prints the measurements of bench/, as tables with ratios. Times depend on the machine; the ratios are what counts.
// `npm run bench -- dragging` measures only what is named; what has to do with serving is measured on the built server.
// When all was measured, docs/measurements.md is written anew.
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { ensureChromium } from './lib/chromium.mjs'
import { ensureBuild, ensurePackages } from './lib/packages.mjs'
import { startThrowawayPostgres } from './lib/postgres.mjs'
import { root, run, Stop, tool } from './lib/run.mjs'

const named = process.argv.slice(2)
const folder = mkdtempSync(join(tmpdir(), 'handy-grid-bench-'))
const told = join(folder, 'told')
let postgres
try {
  await ensurePackages()
  if (named.length === 0 || named.some(name => name.includes('serving'))) {
    await ensureBuild()
    postgres = await startThrowawayPostgres()
  }
  const env = {
    ...process.env,
    BENCH_REPORT: told,
    TEST_POSTGRES_URL: postgres?.urlOf('postgres') ?? '',
    ...(postgres && { CHROMIUM: await ensureChromium() }),
  }
  await run(
    tool('vitest'),
    // Names come first: a flag would take the one behind it for its value.
    ['run', ...named, '--project', 'bench', '--reporter', 'verbose', '--disable-console-intercept'],
    { env },
  )
  if (named.length === 0) {
    const { writeMeasurements } = await import('./lib/measurements.mjs')
    writeMeasurements(readFileSync(told, 'utf8').trim().split('\n'), resolve(root, 'docs'))
  }
} catch (error) {
  console.error(error instanceof Stop ? error.message : error)
  process.exitCode = 1
} finally {
  await postgres?.stop()
  rmSync(folder, { recursive: true, force: true })
}
