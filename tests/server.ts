import type { ChildProcess } from 'node:child_process'
import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { readFileSync } from 'node:fs'
import { createServer } from 'node:net'
import { setTimeout as sleep } from 'node:timers/promises'
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import pg from 'pg'
import * as schema from '../server/db/schema'

/** The built server as a process of its own, on a database of its own that is thrown away. */
export type TestServer = {
  url: string
  port: number
  pid: () => number
  /** Bytes of memory that it and the processes of its jobs take. */
  memory: () => number
  db: NodePgDatabase<typeof schema>
  databaseUrl: string
  /** Starts it (again), and waits until it answers. */
  start: () => Promise<void>
  /** Ends it the given way and waits until it is gone. */
  end: (signal: 'SIGTERM' | 'SIGKILL') => Promise<void>
  /** Ends it and throws the database away. */
  dispose: () => Promise<void>
}

function adminUrl(): string {
  const url = process.env.TEST_POSTGRES_URL
  if (!url) throw new Error('TEST_POSTGRES_URL is not set; npm test sets it to a throwaway PostgreSQL')
  return url
}

async function withAdmin(statement: string): Promise<void> {
  const client = new pg.Client({ connectionString: adminUrl() })
  await client.connect()
  await client.query(statement)
  await client.end()
}

async function freePort(): Promise<number> {
  const probe = createServer().listen(0, '127.0.0.1')
  await once(probe, 'listening')
  const { port } = probe.address() as { port: number }
  probe.close()
  return port
}

/**
 * @param options.env further settings of the server, which may follow from its port
 * @param options.processes behind its one port
 * @param options.before fills the empty database before the server starts on it
 * @param options.database of another PostgreSQL, or of another server, which then has to go on being there
 */
export async function makeServer({
  env = {},
  processes = 1,
  database,
  before,
}: {
  env?: Record<string, string> | ((port: number) => Record<string, string>)
  processes?: number
  database?: string
  before?: (db: TestServer['db']) => Promise<void>
} = {}): Promise<TestServer> {
  const name = `test_${process.pid}_${Math.random().toString(36).slice(2, 8)}`
  if (!database) await withAdmin(`create database ${name}`)
  const databaseUrl = database ?? Object.assign(new URL(adminUrl()), { pathname: `/${name}` }).href
  const pool = new pg.Pool({ connectionString: databaseUrl })
  pool.on('error', () => {})
  const port = await freePort()
  const url = `http://127.0.0.1:${port}`
  let process_: ChildProcess | undefined

  const end = async (signal: NodeJS.Signals) => {
    if (!process_ || process_.exitCode !== null || process_.signalCode !== null) return
    const gone = once(process_, 'exit')
    process_.kill(signal)
    await gone
  }
  const start = async () => {
    const program = processes > 1 ? ['scripts/lib/processes.mjs', String(processes)] : ['.output/server/index.mjs']
    process_ = spawn(process.execPath, program, {
      env: {
        ...process.env,
        NODE_ENV: 'production',
        HOST: '127.0.0.1',
        PORT: String(port),
        DATABASE_URL: databaseUrl,
        LOG_LEVEL: 'fatal',
        ...(typeof env === 'function' ? env(port) : env),
      },
      stdio: ['ignore', 'ignore', 'inherit'],
    })
    for (
      let tries = 0;
      !(await fetch(`${url}/api/health`).then(
        answer => answer.ok,
        () => false,
      ));
      tries++
    ) {
      if (tries > 600 || process_.exitCode !== null) throw new Error('the server does not start')
      await sleep(100)
    }
  }
  const dispose = async () => {
    await end('SIGTERM')
    await pool.end()
    if (!database) await withAdmin(`drop database ${name} with (force)`)
  }
  const pid = () => process_!.pid!
  const memory = () => memoryOf(pid())
  await before?.(drizzle(pool, { schema }))
  await start()
  return { url, port, pid, memory, databaseUrl, db: drizzle(pool, { schema }), start, end, dispose }
}

/** Of a process and those that it has started (Linux, proc(5)). */
function memoryOf(pid: number): number {
  try {
    const resident = Number(/^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))?.[1] ?? 0) * 1024
    const children = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').split(' ').filter(Boolean)
    return children.reduce((sum, child) => sum + memoryOf(Number(child)), resident)
  } catch {
    // It has ended.
    return 0
  }
}
