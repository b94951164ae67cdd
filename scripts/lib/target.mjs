// What commands have in common that work on a running server, or straight on the database.
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { root, Stop } from './run.mjs'

/** What was asked for makes no sense; the message says why. */
export class Misunderstood extends Error {}

/** Asks a running server, with the key in HANDY_GRID_KEY. */
function serverAt(address) {
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
  return { address, ask, read }
}

/** Does the server's own work here. @throws Stop if the database does not answer */
async function databaseAt(address) {
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
  return { client, job }
}

/** The levels there are, as a server lists them. */
export const levelsOf = ({ ask, read }) =>
  read(async () => {
    const { levels } = await (await ask('/api/levels')).json()
    return levels.filter(({ id }) => id)
  })

/** The levels there are in a database. */
export async function levelsIn(client) {
  const { rows } = await client.query(
    'select id, name, revision, placement_count as "placementCount" from levels where deleted_at is null and part_id is null order by changed_at desc',
  )
  return rows
}

/** The milestones of a level in a database. */
export async function milestonesIn(client, levelId) {
  const { rows } = await client.query(
    'select id, name, revision from milestones where level_id = $1 and deleted_at is null',
    [levelId],
  )
  return rows
}

/** One of several, by its id or by a name that only one has. @throws Stop */
export function named(all, wanted, what, many) {
  if (!wanted) throw new Misunderstood(`Which ${what}?`)
  const found = all.filter(({ id, name }) => id === wanted.toLowerCase() || name === wanted)
  if (found.length === 1) return found[0]
  throw new Stop(
    found.length === 0
      ? `There is no ${what} "${wanted}".`
      : `${found.length} ${many} are called "${wanted}"; give the id: ${found.map(({ id }) => id).join(', ')}`,
  )
}

/**
 * Runs what a command line asks for, on a server or a database, and ends: with 0 when it is done (or what `main` says
 * in `process.exitCode`), 1 when it could not be done, 2 when it was not understood.
 */
export async function runCommand({ usage, options, onServer, onDatabase, main }) {
  const misunderstood = why => {
    console.error(`${why}\n\n${usage}`)
    process.exit(2)
  }
  try {
    const { values, positionals } = readArguments(options)
    const [command, ...words] = positionals
    if (values.server && values.database) throw new Misunderstood('Either --server or --database.')
    if (values.server !== undefined && !URL.canParse(values.server))
      throw new Misunderstood(`--server ${values.server}: is no address.`)
    if (values.database) {
      const database = await databaseAt(values.database)
      await main(onDatabase(database), command, words, values)
      await database.client.end()
    } else {
      const server = serverAt(values.server ?? `http://127.0.0.1:${process.env.PORT || 4600}`)
      await main(onServer(server), command, words, values)
    }
    process.exit(process.exitCode ?? 0)
  } catch (error) {
    if (error instanceof Misunderstood) misunderstood(error.message)
    // Of a file or a folder, what the system says is enough.
    console.error(error instanceof Stop || error.syscall ? error.message : error)
    process.exit(1)
  }
}

function readArguments(options) {
  try {
    return parseArgs({
      allowPositionals: true,
      options: { server: { type: 'string' }, database: { type: 'string' }, ...options },
    })
  } catch (error) {
    throw new Misunderstood(error.message)
  }
}
