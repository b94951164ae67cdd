// Puts errors into a folder of core, one after the other, and counts those that the unit and reference tests see. Takes
// long, and is no part of `npm test`: `npm run mutants -- core/check core/arrange/scatter`. The score of each folder
// goes into docs/mutants.md.
import { existsSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { ensurePackages } from './lib/packages.mjs'
import { root, run, Stop, tool } from './lib/run.mjs'

const TABLE = join(root, 'docs/mutants.md')
const REPORT = join(root, 'node_modules/.cache/mutants.json')
const folders = process.argv.slice(2)

try {
  if (folders.length === 0)
    throw new Stop('Which folders? For example: npm run mutants -- core/check core/arrange/scatter')
  await ensurePackages()
  if (!existsSync(join(root, '.nuxt/tsconfig.json'))) await run(tool('nuxt'), ['prepare'])
  for (const folder of folders) {
    const files = folder.endsWith('.ts') ? folder : `${folder}/**/*.ts`
    await run(tool('stryker'), ['run', '--mutate', `${files},!${folder}/**/*.test.ts`])
    note(folder, countOf(JSON.parse(readFileSync(REPORT, 'utf8'))))
  }
} catch (error) {
  console.error(error instanceof Stop ? error.message : error)
  process.exitCode = 1
}

function countOf({ files }) {
  const all = Object.values(files).flatMap(({ mutants }) => mutants.map(({ status }) => status))
  const seen = all.filter(status => status === 'Killed' || status === 'Timeout').length
  const missed = all.filter(status => status === 'Survived' || status === 'NoCoverage').length
  return { seen, all: seen + missed }
}

/** Writes the row of a folder, in place of the one before. */
function note(folder, { seen, all }) {
  const row = `| \`${folder}\` | ${all} | ${seen} | ${all > 0 ? Math.round((seen / all) * 100) : 100} % |`
  console.log(row)
  const lines = readFileSync(TABLE, 'utf8')
    .trimEnd()
    .split('\n')
    .filter(line => !line.startsWith(`| \`${folder}\` |`))
  const first = lines.findIndex(line => line.startsWith('|---'))
  const rows = [...lines.slice(first + 1).filter(line => line.startsWith('|')), row].sort()
  writeFileSync(TABLE, `${[...lines.slice(0, first + 1), ...rows].join('\n')}\n`)
}
