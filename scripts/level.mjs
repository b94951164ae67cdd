// Hands levels over and brings files in from the command line: on a running server, or straight on the database.
import { createReadStream, createWriteStream } from 'node:fs'
import { mkdtemp, readFile, rename, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, extname, join, resolve } from 'node:path'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { setTimeout as sleep } from 'node:timers/promises'
import { parseArgs } from 'node:util'
import { root, Stop } from './lib/run.mjs'

const USAGE = `npm run level -- list
npm run level -- export <level> <file> [--format bill] [--set key=value ...]
npm run level -- import <file> [--into <level>] [--name <name>] [--dry]
npm run level -- watch <level> <file> [--set key=value ...]

<level> is an id, or a name that only one level has. The format goes by the file's ending: .glb .usda .usdz .csv .tsv .handygrid
.svg .pdf; --format bill makes a bill of parts of a .csv. --set gives a choice of the format, as in the address (docs/formats.md).
--server <address> (http://127.0.0.1:4600 when left out), with its key in HANDY_GRID_KEY; or --database <address>.
Ends with 0 when it is done, 1 when it could not be done, 2 when it was not understood.`

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
}
/** Milliseconds between looks at whether a level was changed. */
const EVERY = 1000

class Misunderstood extends Error {}

const {
  values: given,
  positionals: [command, ...words],
} = readArguments()

function readArguments() {
  try {
    return parseArgs({
      allowPositionals: true,
      options: {
        server: { type: 'string' },
        database: { type: 'string' },
        format: { type: 'string' },
        set: { type: 'string', multiple: true, default: [] },
        into: { type: 'string' },
        name: { type: 'string' },
        dry: { type: 'boolean', default: false },
      },
    })
  } catch (error) {
    misunderstood(error.message)
  }
}

function misunderstood(why) {
  console.error(`${why}\n\n${USAGE}`)
  process.exit(2)
}

/** Asks a running server. */
function onServer(address) {
  const key = process.env.HANDY_GRID_KEY
  const ask = async (path, options = {}) => {
    let response
    try {
      response = await fetch(new URL(path, address), {
        ...options,
        headers: { ...(key ? { authorization: `Bearer ${key}` } : {}), ...options.headers },
      })
    } catch {
      throw new Stop(`No server answers at ${address}. Start it with npm start, or give --server or --database.`)
    }
    if (response.ok) return response
    const said = await response.json().catch(() => null)
    throw new Stop(
      said?.error?.message
        ?? `What answers at ${address} is no server of this program, or one that does not work (${response.status} ${response.statusText}).`,
    )
  }
  /** What is read of an answer; whatever else answers there is no server of this program. */
  const read = async work => {
    try {
      return await work()
    } catch (error) {
      if (error instanceof Stop || error.syscall) throw error
      throw new Stop(`What answers at ${address} is no server of this program, or it went away: ${error.message}`)
    }
  }
  return {
    levels: () =>
      read(async () => {
        const { levels } = await (await ask('/api/levels')).json()
        return levels.filter(({ id }) => id)
      }),
    handOver: (id, [, path], query, file) =>
      read(async () => {
        const response = await ask(`/api/levels/${id}/${path}?${new URLSearchParams(query)}`)
        await pipeline(Readable.fromWeb(response.body), createWriteStream(file))
        const { bytes, counts, remarks } = JSON.parse(decodeURIComponent(response.headers.get('x-report')))
        if (!counts || !remarks) throw new Error('it does not say what it has made')
        return { bytes, counts, remarks }
      }),
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
    end: () => {},
  }
}

/** Does the server's own work here. */
async function onDatabase(address) {
  process.env.DATABASE_URL = address
  process.chdir(root)
  const [{ default: pg }, { default: work }] = await Promise.all([
    import('pg'),
    import(join(root, '.output/server/jobs.mjs')).catch(() => {
      throw new Stop('The application is not built yet. Run npm start once, or npm run build.')
    }),
  ])
  const client = new pg.Client({ connectionString: address, connectionTimeoutMillis: 5000 })
  await client.connect().catch(error => {
    throw new Stop(`The database does not answer: ${error.message}`)
  })
  const job = async (name, what) => {
    const outcome = await work(name, what)
    if (outcome.ok) return outcome.value
    throw new Stop(outcome.refused?.message ?? `${outcome.failed.name}: ${outcome.failed.message}`)
  }
  return {
    levels: async () =>
      (
        await client.query(
          'select id, name, revision, placement_count as "placementCount" from levels where deleted_at is null and part_id is null order by changed_at desc',
        )
      ).rows,
    handOver: async (id, [format], query, file) => {
      const folder = await mkdtemp(join(tmpdir(), `handy-grid-hand-over-${process.pid}-`))
      try {
        const { paths, report } = await job('handOverAsked', { id, format, query, folder })
        await writeFile(file, '')
        for (const path of paths) await pipeline(createReadStream(path), createWriteStream(file, { flags: 'a' }))
        return report
      } finally {
        await rm(folder, { recursive: true, force: true })
      }
    },
    bring: async (bytes, query) => job('importAsked', { bytes, query }),
    end: () => client.end(),
  }
}

async function levelNamed(target, wanted) {
  if (!wanted) throw new Misunderstood('Which level?')
  const levels = await target.levels()
  const found = levels.filter(({ id, name }) => id === wanted.toLowerCase() || name === wanted)
  if (found.length === 1) return found[0]
  throw new Stop(
    found.length === 0
      ? `There is no level "${wanted}".`
      : `${found.length} levels are called "${wanted}"; give the id: ${found.map(({ id }) => id).join(', ')}`,
  )
}

function formatOf(file) {
  const format = FORMATS[given.format ?? extname(file).toLowerCase()]
  if (!format) throw new Misunderstood(`No format has the ending "${extname(file)}".`)
  return format
}

function queryOf(file) {
  const pairs = given.set.map(text => {
    const at = text.indexOf('=')
    if (at < 1) throw new Misunderstood(`--set ${text}: is not key=value.`)
    return [text.slice(0, at), text.slice(at + 1)]
  })
  return { ...(extname(file).toLowerCase() === '.tsv' ? { separator: 'tab' } : {}), ...Object.fromEntries(pairs) }
}

/** The file is there whole, or as it was. */
async function handOver(target, level, file) {
  const beside = `${file}.${process.pid}.part`
  try {
    const { bytes, counts, remarks } = await target.handOver(level.id, formatOf(file), queryOf(file), beside)
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

async function watch(target, level, file) {
  let revision = -1
  process.once('SIGINT', () => process.exit(0))
  for (;;) {
    const now = (await target.levels()).find(({ id }) => id === level.id)
    if (!now) throw new Stop(`"${level.name}" is not there any more.`)
    if (now.revision !== revision) {
      revision = now.revision
      await handOver(target, level, file)
    }
    await sleep(EVERY)
  }
}

async function main(target) {
  const [first, second] = words
  if (command === 'list') {
    for (const { id, name, placementCount, revision } of await target.levels())
      console.log(`${id}  ${name}  ${placementCount} things, change ${revision}`)
  } else if (command === 'export' || command === 'watch') {
    if (!second) throw new Misunderstood('Into which file?')
    formatOf(second)
    queryOf(second)
    const level = await levelNamed(target, first)
    await (command === 'watch' ? watch : handOver)(target, level, resolve(process.env.INIT_CWD ?? '.', second))
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
  } else throw new Misunderstood(command ? `"${command}" is no command.` : 'What is to be done?')
}

let target
try {
  if (given.server && given.database) throw new Misunderstood('Either --server or --database.')
  if (given.server !== undefined && !URL.canParse(given.server))
    throw new Misunderstood(`--server ${given.server}: is no address.`)
  target = given.database
    ? await onDatabase(given.database)
    : onServer(given.server ?? `http://127.0.0.1:${process.env.PORT || 4600}`)
  await main(target)
  await target.end()
  process.exit(0)
} catch (error) {
  if (error instanceof Misunderstood) misunderstood(error.message)
  // Of a file or a folder, what the system says is enough.
  console.error(error instanceof Stop || error.syscall ? error.message : error)
  process.exit(1)
}
