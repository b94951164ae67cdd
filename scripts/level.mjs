// Hands levels over and brings files in from the command line: on a running server, or straight on the database.
import { createReadStream, createWriteStream } from 'node:fs'
import { mkdtemp, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, extname, join, resolve } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { setTimeout as sleep } from 'node:timers/promises'
import { Stop } from './lib/run.mjs'
import { levelsIn, levelsOf, milestonesIn, Misunderstood, named, runCommand } from './lib/target.mjs'

const USAGE = `npm run level -- list
npm run level -- export <level> <file> [--format bill] [--set key=value ...]
npm run level -- import <file> [--into <level>] [--name <name>] [--dry]
npm run level -- watch <level> <file> [--set key=value ...]
npm run level -- compare <level> <level> [--as json|csv]
npm run level -- play <level> <recipe> [--on <thing> ...] [--input name=number ...] [--dry]

<level> is an id, or a name that only one level has; to compare with what it was at a milestone, the first one may be
<level>@<milestone>. <recipe> is one of the level's by its name or id, or a .json file; <thing> a name that one thing
alone has, or an id. The format goes by the file's ending: .glb .usda .usdz .csv .tsv .handygrid
.svg .pdf; --format bill or notes makes a bill of parts or the notes of a .csv. --set gives a choice of the format, as in the address (docs/formats.md).
--server <address> (http://127.0.0.1:4600 when left out), with its key in HANDY_GRID_KEY; or --database <address>.
Ends with 0 when it is done, 1 when it could not be done, 2 when it was not understood; compare with 3 when something is
not the same.`

/** By ending: the format, and where the server has it. */
const FORMATS = {
  '.glb': ['glb', 'export.glb'],
  '.usda': ['usda', 'export.usda'],
  '.usdz': ['usdz', 'export.usdz'],
  '.csv': ['table', 'placements.csv'],
  '.tsv': ['table', 'placements.csv'],
  '.handygrid': ['level', 'export.handygrid'],
  '.svg': ['svg', 'plan.svg'],
  '.pdf': ['pdf', 'plan.pdf'],
  'bill': ['bill', 'parts.csv'],
  'notes': ['notes', 'notes.csv'],
}
/** Milliseconds between looks at whether a level was changed. */
const EVERY = 1000
/** Differences that are told one by one. */
const MOST_TOLD = 50

/** Asks a running server. */
function onServer({ ask, read }) {
  return {
    levels: () => levelsOf({ ask, read }),
    handOver: (id, [, path], query, file) =>
      read(async () => {
        const response = await ask(`/api/levels/${id}/${path}?${new URLSearchParams(query)}`)
        await pipeline(Readable.fromWeb(response.body), createWriteStream(file))
        const { bytes, counts, remarks } = JSON.parse(decodeURIComponent(response.headers.get('x-report')))
        if (!counts || !remarks) throw new Error('it does not say what it has made')
        return { bytes, counts, remarks }
      }),
    milestones: id =>
      read(async () => (await (await ask(`/api/levels/${id}/milestones`)).json()).milestones.filter(each => each.id)),
    compare: (id, query) =>
      read(async () => (await ask(`/api/levels/${id}/compare?${new URLSearchParams(query)}`)).text()),
    play: (id, request) =>
      read(async () =>
        (
          await ask(`/api/levels/${id}/play`, {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify(request),
          })
        ).json(),
      ),
    bring: (bytes, query) =>
      read(async () =>
        (
          await ask(`/api/import?${new URLSearchParams(query)}`, {
            method: 'POST',
            headers: { 'content-type': 'application/octet-stream' },
            body: bytes,
          })
        ).json(),
      ),
  }
}

/** Does the server's own work here. */
function onDatabase({ client, job }) {
  return {
    levels: () => levelsIn(client),
    handOver: async (id, [format], query, file) => {
      const folder = await mkdtemp(join(tmpdir(), `handy-grid-hand-over-${process.pid}-`))
      try {
        const { paths, report } = await job('handOver', { id, format, query, folder })
        await writeFile(file, '')
        for (const path of paths) await pipeline(createReadStream(path), createWriteStream(file, { flags: 'a' }))
        return report
      } finally {
        await rm(folder, { recursive: true, force: true })
      }
    },
    milestones: id => milestonesIn(client, id),
    compare: async (id, query) => Buffer.from(await job('compare', { id, query: { as: 'json', ...query } })).toString(),
    play: async (id, request) => job('playAsked', { levelId: id, request }),
    bring: async (bytes, query) => job('importAsked', { bytes, query }),
  }
}

function formatOf(file, given) {
  const format = FORMATS[given.format ?? extname(file).toLowerCase()]
  if (!format) throw new Misunderstood(`No format has the ending "${extname(file)}".`)
  return format
}

function queryOf(file, given) {
  const pairs = given.set.map(text => {
    const at = text.indexOf('=')
    if (at < 1) throw new Misunderstood(`--set ${text}: is not key=value.`)
    return [text.slice(0, at), text.slice(at + 1)]
  })
  return { ...(extname(file).toLowerCase() === '.tsv' ? { separator: 'tab' } : {}), ...Object.fromEntries(pairs) }
}

/** The file is there whole, or as it was. */
async function handOver(target, level, file, given) {
  const beside = `${file}.${process.pid}.part`
  try {
    const { bytes, counts, remarks } = await target.handOver(
      level.id,
      formatOf(file, given),
      queryOf(file, given),
      beside,
    )
    await rename(beside, file)
    console.log(
      `${file}: ${bytes.toLocaleString('en')} bytes; ${Object.entries(counts)
        .map(([what, count]) => `${count.toLocaleString('en')} ${what}`)
        .join(', ')}`,
    )
    for (const remark of remarks) console.log(`  ${remark}`)
  } finally {
    await rm(beside, { force: true })
  }
}

async function watch(target, level, file, given) {
  let revision = -1
  process.once('SIGINT', () => process.exit(0))
  for (;;) {
    const now = (await target.levels()).find(({ id }) => id === level.id)
    if (!now) throw new Stop(`"${level.name}" is not there any more.`)
    if (now.revision !== revision) {
      revision = now.revision
      await handOver(target, level, file, given)
    }
    await sleep(EVERY)
  }
}

/** What became of one level, as a text for people, or as it is written for programs. */
async function compare(target, first, second, given) {
  if (!first || !second) throw new Misunderstood('Which two levels?')
  if (given.as !== undefined && given.as !== 'json' && given.as !== 'csv')
    throw new Misunderstood(`--as ${given.as}: is neither json nor csv.`)
  const all = await target.levels()
  const to = named(all, second, 'level', 'levels')
  const from = await stateNamed(target, all, first)
  const found = JSON.parse(await target.compare(to.id, from))
  if (given.as === 'csv') process.stdout.write(await target.compare(to.id, { ...from, as: 'csv' }))
  else if (given.as === 'json') console.log(JSON.stringify(found, null, 2))
  else tellDifferences(found)
  if (found.differences.length > 0) process.exitCode = 3
}

/** A level as it is, or as it was: by the name of a milestone behind an @, if no level is called so. */
async function stateNamed(target, all, wanted) {
  const at = wanted.lastIndexOf('@')
  if (at < 1 || all.some(({ name }) => name === wanted)) return { level: named(all, wanted, 'level', 'levels').id }
  const level = named(all, wanted.slice(0, at), 'level', 'levels')
  return { milestone: named(await target.milestones(level.id), wanted.slice(at + 1), 'milestone', 'milestones').id }
}

function tellDifferences({ from, to, counts, differences }) {
  const some = Object.entries(counts).filter(([, count]) => count > 0)
  console.log(
    `${from.name} (change ${from.revision}) → ${to.name} (change ${to.revision}): ${
      some.map(([effect, count]) => `${count.toLocaleString('en')} ${effect}`).join(', ') || 'the same'
    }`,
  )
  for (const { kind, name, effects, moved } of differences.slice(0, MOST_TOLD))
    console.log(
      `  ${kind} ${name}: ${effects.join(', ')}${moved === undefined ? '' : ` by ${Number(moved.toFixed(4))} m`}`,
    )
  if (differences.length > MOST_TOLD)
    console.log(`  and ${(differences.length - MOST_TOLD).toLocaleString('en')} more; --as json has all`)
}

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/i

/** A recipe on things of a level. */
async function play(target, level, wanted, given) {
  if (!wanted) throw new Misunderstood('Which recipe?')
  const inputs = given.input.map(text => {
    const [name, value] = [text.slice(0, text.indexOf('=')), Number(text.slice(text.indexOf('=') + 1).trim() || NaN)]
    if (!name || Number.isNaN(value)) throw new Misunderstood(`--input ${text}: is not name=number.`)
    return [name, value]
  })
  const isFile = extname(wanted).toLowerCase() === '.json'
  const { label, revision, operations, made } = await target.play(level.id, {
    recipe: isFile ? await recipeIn(wanted) : wanted,
    on: given.on.filter(each => UUID.test(each)),
    named: given.on.filter(each => !UUID.test(each)),
    inputs: Object.fromEntries(inputs),
    author: 'Command line',
    dry: given.dry,
  })
  console.log(
    `${label}: ${operations} operations, ${made.length} made; change ${revision}${given.dry ? ' as it is: only looked at' : ''}`,
  )
}

/** The recipe of a file, which may hold it as it is, or as the program hands it out. */
async function recipeIn(file) {
  const text = await readFile(resolve(process.env.INIT_CWD ?? '.', file), 'utf8').catch(error => {
    throw new Stop(`${file} cannot be read: ${error.message}`)
  })
  try {
    const { recipe, ...others } = JSON.parse(text)
    return recipe ?? others
  } catch (error) {
    throw new Stop(`${file} is not JSON: ${error.message}`)
  }
}

const levelNamed = async (target, wanted) => named(await target.levels(), wanted, 'level', 'levels')

async function main(target, command, words, given) {
  const [first, second] = words
  if (command === 'list') {
    for (const { id, name, placementCount, revision } of await target.levels())
      console.log(`${id}  ${name}  ${placementCount} things, change ${revision}`)
  } else if (command === 'export' || command === 'watch') {
    if (!second) throw new Misunderstood('Into which file?')
    formatOf(second, given)
    queryOf(second, given)
    const level = await levelNamed(target, first)
    await (command === 'watch' ? watch : handOver)(target, level, resolve(process.env.INIT_CWD ?? '.', second), given)
  } else if (command === 'import') {
    if (!first) throw new Misunderstood('Which file?')
    const file = resolve(process.env.INIT_CWD ?? '.', first)
    const bytes = await readFile(file).catch(error => {
      throw new Stop(`${first} cannot be read: ${error.message}`)
    })
    const into = given.into === undefined ? {} : { into: (await levelNamed(target, given.into)).id }
    // A level file and a glTF file say themselves what the level is called.
    const name = given.name ?? basename(file, extname(file))
    const { format, counts, notes, errors, errorCount, levelId } = await target.bring(bytes, {
      ...(given.name || /\.(csv|tsv)$/i.test(file) ? { name } : {}),
      ...into,
      dry: String(given.dry),
    })
    console.log(
      `${format}: ${Object.entries(counts)
        .map(([what, count]) => `${count.toLocaleString('en')} ${what}`)
        .join(', ')}${levelId ? `; level ${levelId}` : ''}`,
    )
    for (const note of notes) console.log(`  ${note}`)
    for (const { line, column, message } of errors)
      console.error(`  line ${line}${column === null ? '' : `, column ${column}`}: ${message}`)
    if (errorCount > 0) throw new Stop(`${errorCount} rows are wrong.`)
  } else if (command === 'play') await play(target, await levelNamed(target, first), second, given)
  else if (command === 'compare') await compare(target, first, second, given)
  else throw new Misunderstood(command ? `"${command}" is no command.` : 'What is to be done?')
}

await runCommand({
  usage: USAGE,
  options: {
    format: { type: 'string' },
    set: { type: 'string', multiple: true, default: [] },
    into: { type: 'string' },
    name: { type: 'string' },
    dry: { type: 'boolean', default: false },
    as: { type: 'string' },
    on: { type: 'string', multiple: true, default: [] },
    input: { type: 'string', multiple: true, default: [] },
  },
  onServer,
  onDatabase,
  main,
})
