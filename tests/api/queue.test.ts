import type { ChildProcess } from 'node:child_process'
import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { readdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { setTimeout as sleep } from 'node:timers/promises'
import { sql } from 'drizzle-orm'
import { afterEach, describe, expect, it } from 'vitest'
import { progressSchema } from '../../core/api/schema'
import { madeFiles } from '../../server/db/schema'
import { freshId, lineOfCrates, useServer } from './support'

/** It answers, and does nothing itself that is queued. */
const server = useServer({ env: { HANDY_GRID_WORK: 'no' } })
/** The same, and does what is queued itself. */
const both = useServer()
const workers: ChildProcess[] = []

/** What `npm run worker` starts. */
function startWorker(env: Record<string, string> = {}): ChildProcess {
  const worker = spawn(process.execPath, ['.output/server/worker.mjs'], {
    env: {
      ...process.env,
      NODE_ENV: 'production',
      DATABASE_URL: server.get().databaseUrl,
      LOG_LEVEL: 'fatal',
      ...env,
    },
    stdio: ['ignore', 'ignore', 'inherit'],
  })
  workers.push(worker)
  return worker
}

async function endWorker(worker: ChildProcess, signal: NodeJS.Signals): Promise<unknown> {
  if (worker.exitCode !== null || worker.signalCode !== null) return worker.exitCode
  const gone = once(worker, 'exit')
  worker.kill(signal)
  return (await gone)[0]
}
afterEach(async () => {
  for (const worker of workers.splice(0)) await endWorker(worker, 'SIGKILL')
})

const ask = (path: string, init?: RequestInit) => fetch(server.get().url + path, init)
const queued = async () => {
  const { rows } = await server
    .get()
    .db.execute<{ state: string }>(sql`select state::text from pgboss.job where name in ('reading', 'reading-more')`)
  return rows.map(({ state }) => state)
}
const until = async (test: () => Promise<boolean>, seconds = 30) => {
  for (let i = 0; i < seconds * 20 && !(await test()); i++) await sleep(50)
  expect(await test()).toBe(true)
}
const isTaken = async () => (await queued()).includes('active')
const foldersOf = ({ pid }: ChildProcess) =>
  readdirSync(tmpdir()).filter(name => name.startsWith(`handy-grid-hand-over-${pid}-`))
/** A level that takes some seconds to be handed over. */
async function large(count = 60_000): Promise<string> {
  const { id } = await server.newLevel()
  await server.save(id, 0, lineOfCrates(count))
  return id
}

describe('what takes long', () => {
  it('is done by a process without a web server, with the same bytes, progress and refusals, and nothing is left', async () => {
    const worker = startWorker()
    const level = await server.newLevel('demo')
    const path = `/api/levels/${level.id}/export.glb`
    const made = await ask(path)
    expect([made.status, made.headers.get('x-report')]).toEqual([200, expect.stringContaining('%22triangles')])
    const bytes = Buffer.from(await made.arrayBuffer())
    expect(bytes.length).toBe(Number(made.headers.get('content-length')))
    // The same level, made by a server for itself.
    const alone = await both.newLevel('demo')
    const own = Buffer.from(await (await fetch(`${both.get().url}/api/levels/${alone.id}/export.glb`)).arrayBuffer())
    expect(bytes.length).toBe(own.length)

    const check = await ask(`/api/levels/${level.id}/check`)
    expect([check.status, ((await check.json()) as { looked: number }).looked]).toEqual([200, 1])
    const refused = await ask(`/api/parts/${freshId()}/remake`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: '{}',
    })
    expect(refused.status).toBe(404)

    const [id, ticket] = [await large(100_000), freshId()]
    const shares = new Set<number | null>()
    let isMade = false
    const file = ask(`/api/levels/${id}/export.usda?ticket=${ticket}`).finally(() => (isMade = true))
    while (!isMade) {
      shares.add(progressSchema.parse(await (await ask(`/api/progress/${ticket}`)).json()).share)
      await sleep(100)
    }
    expect((await (await file).text()).startsWith('#usda 1.0')).toBe(true)
    expect([...shares].filter(share => share !== null && share > 0 && share < 1).length).toBeGreaterThan(0)
    await until(async () => (await server.get().db.select().from(madeFiles)).length === 0)
    await until(async () => (await queued()).length === 0)
    expect(foldersOf(worker)).toEqual([])
  })

  it('is done once more by another process when one is killed, and once only', async () => {
    const id = await large()
    const first = startWorker()
    const file = ask(`/api/levels/${id}/export.usda`)
    await until(isTaken)
    await endWorker(first, 'SIGKILL')
    startWorker()
    expect((await file).status).toBe(200)
    const text = await (await file).text()
    expect(text === (await (await ask(`/api/levels/${id}/export.usda`)).text())).toBe(true)
    expect(text.length).toBeGreaterThan(1e6)
    await until(async () => (await queued()).length === 0)
  })

  it('is done by another process when one was lost before it said that it is at it', async () => {
    const id = await large(10)
    const file = ask(`/api/levels/${id}/export.usda`)
    await until(async () => (await queued()).includes('created'))
    const taken = sql`update pgboss.job set state = 'active', started_on = now() where state = 'created'`
    await server.get().db.execute(taken)
    startWorker()
    expect((await file).status).toBe(200)
    await until(async () => (await queued()).length === 0)
  })

  it('is finished by a process that is asked to end, which takes nothing new; asked twice it gives it back at once', async () => {
    const id = await large()
    const first = startWorker()
    const file = ask(`/api/levels/${id}/export.usda`)
    await until(isTaken)
    const ended = endWorker(first, 'SIGTERM')
    await sleep(200)
    const { id: small } = await server.newLevel()
    const next = ask(`/api/levels/${small}/parts.csv`)
    expect((await file).status).toBe(200)
    expect(await ended).toBe(0)
    expect(await queued()).toEqual(['created'])
    const second = startWorker()
    expect((await next).status).toBe(200)

    const again = ask(`/api/levels/${id}/export.usda`)
    await until(isTaken)
    const began = Date.now()
    second.kill('SIGTERM')
    await sleep(200)
    expect(await endWorker(second, 'SIGTERM')).toBe(0)
    // Given back, it is not waited for until it counts as lost.
    expect(await queued()).toEqual(['retry'])
    expect(Date.now() - began).toBeLessThan(8000)
    startWorker()
    expect((await again).status).toBe(200)
  })

  it('is ended where it is done when nobody waits for it any more, and never begun when that is so before', async () => {
    const id = await large()
    const left = new AbortController()
    const early = ask(`/api/levels/${id}/export.usda`, { signal: left.signal }).catch(() => 'left')
    await until(async () => (await queued()).includes('created'))
    left.abort()
    expect(await early).toBe('left')
    await until(async () => (await queued()).length === 0)
    const worker = startWorker()
    const later = new AbortController()
    const begun = ask(`/api/levels/${id}/export.usda`, { signal: later.signal }).catch(() => 'left')
    await until(isTaken)
    later.abort()
    expect(await begun).toBe('left')
    await until(async () => (await queued()).length === 0)
    await until(async () => foldersOf(worker).length === 0)
  })

  it('does not wait for one who asks for much, nor for what is large', async () => {
    const [id, { id: small }] = [await large(), await server.newLevel()]
    startWorker()
    const left = new AbortController()
    const many = Array.from({ length: 8 }, () =>
      ask(`/api/levels/${id}/export.usda`, { signal: left.signal }).catch(() => 'left'),
    )
    await until(isTaken)
    // Somebody else, by another address.
    const other = await fetch(`${server.get().url}/api/levels/${small}/parts.csv`)
    expect(other.status).toBe(200)
    expect((await queued()).filter(state => state === 'active').length).toBeLessThanOrEqual(2)
    left.abort()
    await Promise.all(many)
  })

  it('is passed over where it is something else, and what comes after it is done', async () => {
    await server.newLevel()
    startWorker()
    await until(async () => (await ask(`/api/levels/${(await server.newLevel()).id}/check`)).status === 200)
    await server.get().db.execute(sql`insert into pgboss.job (name, data) values ('reading', '{"name":"handOver"}')`)
    await server.get().db.execute(sql`insert into pgboss.job (name, data) values ('reading', '[1]')`)
    await until(async () => (await queued()).every(state => state === 'cancelled'))
    expect((await ask(`/api/levels/${(await server.newLevel()).id}/check`)).status).toBe(200)
  })
})
