// Prints the measurements of bench/, as tables with ratios. Times depend on the machine; the ratios are what counts.
import { ensurePackages } from './lib/packages.mjs'
import { run, Stop, tool } from './lib/run.mjs'

try {
  await ensurePackages()
  await run(tool('vitest'), ['run', '--project', 'bench', '--reporter', 'verbose', '--disable-console-intercept', ...process.argv.slice(2)])
}
catch (error) {
  console.error(error instanceof Stop ? error.message : error)
  process.exitCode = 1
}
