import { randomUUID } from 'node:crypto'
import { once } from 'node:events'
import { request } from 'node:http'
import { setTimeout as sleep } from 'node:timers/promises'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { WebSocket } from 'ws'
import { journalSchema } from '../../core/api/schema'
import { LIVE_PATH, liveMessageSchema } from '../../core/api/live'
import type { TestServer } from '../server'
import { makeServer } from '../server'
import { change, freshId, newGroup, useServer } from './support'

const api = useServer()
const KEY = 'the-writing-key-of-the-live-tests'
const locked = useServer({ env: { HANDY_GRID_KEY: KEY } })
/** A second server on the same database. */
let other: TestServer
beforeAll(async () => {
  other = await makeServer({ database: api.get().databaseUrl })
})
afterAll(() => other.dispose())

const addressOf = (server: TestServer, level: string) =>
  server.url.replace('http', 'ws') + LIVE_PATH.replace(':id', level)

/** A page that has a level open: what it is told, from its first word on, each once. */
async function page(server: TestServer, level: string) {
  const socket = new WebSocket(addressOf(server, level))
  const told: number[] = []
  socket.on('message', data => {
    const { revision } = liveMessageSchema.parse(JSON.parse(String(data)))
    if (!told.includes(revision)) told.push(revision)
  })
  await once(socket, 'message')
  return { socket, told }
}

const hears = async (told: number[], revision: number, seconds = 5) => {
  for (let i = 0; i < seconds * 50 && !told.includes(revision); i++) await sleep(20)
  return told.includes(revision)
}

/** The status that asking for a socket is answered with: 101 where it comes to stand. */
async function statusOf(port: number, path: string, headers: Record<string, string> = {}): Promise<number> {
  const asking = request({
    host: '127.0.0.1',
    port,
    path,
    headers: {
      'connection': 'Upgrade',
      'upgrade': 'websocket',
      'sec-websocket-version': '13',
      'sec-websocket-key': 'dGhlIHNhbXBsZSBub25jZQ==',
      ...headers,
    },
  })
  asking.end()
  const [answer] = (await Promise.race([once(asking, 'upgrade'), once(asking, 'response')])) as [
    { statusCode: number; socket: { destroy: () => void } },
  ]
  answer.socket.destroy()
  return answer.statusCode
}

describe('a level that is open elsewhere', () => {
  it('is heard of at once, on all servers, whoever of them took the change', async () => {
    const level = await api.newLevel()
    const [here, there] = [await page(api.get(), level.id), await page(other, level.id)]
    expect([here.told, there.told]).toEqual([[0], [0]])
    await api.save(level.id, 0, change(newGroup().make))
    expect([await hears(here.told, 1), await hears(there.told, 1)]).toEqual([true, true])
    const answer = await fetch(`${other.url}/api/levels/${level.id}/changes`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ baseRevision: 1, changes: [change(newGroup().make)] }),
    })
    expect([answer.status, await hears(here.told, 2), await hears(there.told, 2)]).toEqual([200, true, true])
    // Of another level nothing.
    const quiet = await api.newLevel()
    await api.save(quiet.id, 0, change(newGroup().make), change(newGroup().make), change(newGroup().make))
    await sleep(200)
    expect(here.told).toEqual([0, 1, 2])
    for (const { socket } of [here, there]) socket.close()
  })

  it('is heard of again after the database has cut all connections', async () => {
    const level = await api.newLevel()
    const { socket, told } = await page(api.get(), level.id)
    const admin = new pg.Client({ connectionString: api.get().databaseUrl })
    await admin.connect()
    await admin.query(
      'select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()',
    )
    // Whatever is announced while nobody listens is looked for afterwards.
    for (let tries = 0; ; tries++) {
      const { status } = await api.call('POST', `/api/levels/${level.id}/changes`, {
        baseRevision: 0,
        changes: [change(newGroup().make)],
      })
      if (status === 200) break
      expect(tries).toBeLessThan(20)
      await sleep(100)
    }
    expect(await hears(told, 1, 15)).toBe(true)
    await admin.end()
    socket.close()
  })

  it('is read from the journal, in order, as much at a time as is little', async () => {
    const level = await api.newLevel()
    const ids = Array.from({ length: 5 }, freshId)
    for (const [i, id] of ids.entries()) await api.save(level.id, i, { ...change(newGroup().make), id })
    const read = async (after: number) =>
      journalSchema.parse((await api.call('GET', `/api/levels/${level.id}/journal?after=${after}`)).json)
    const found = await read(2)
    expect([found.revision, found.entries.map(({ id, revision }) => [id, revision])]).toEqual([
      5,
      ids.slice(2).map((id, i) => [id, i + 3]),
    ])
    expect((await read(5)).entries).toEqual([])
    expect(await api.error('GET', `/api/levels/${level.id}/journal?after=6`)).toMatchObject({
      status: 422,
      field: 'after',
    })
    expect(await api.error('GET', `/api/levels/${level.id}/journal`)).toMatchObject({ status: 422 })
    expect(await api.error('GET', `/api/levels/${freshId()}/journal?after=0`)).toMatchObject({ status: 404 })
    // Names that do not compress: two changes of twenty thousand things are more than is told at once.
    const many = () =>
      change(
        ...Array.from(
          { length: 20_000 },
          () => newGroup({ name: Array.from({ length: 5 }, () => randomUUID()).join('') }).make,
        ),
      )
    await api.save(level.id, 5, many())
    await api.save(level.id, 6, many())
    const [first, second] = [await read(5), await read(6)]
    expect([first, second].map(({ revision, entries }) => [revision, entries.map(each => each.revision)])).toEqual([
      [7, [6]],
      [7, [7]],
    ])
  })
})

describe('the door for sockets', () => {
  it('is the one for requests: name, page, key and address', async () => {
    const level = await api.newLevel()
    const { port } = api.get()
    const path = LIVE_PATH.replace(':id', level.id)
    expect(await statusOf(port, path)).toBe(101)
    expect(await statusOf(port, path, { origin: `http://127.0.0.1:${port}` })).toBe(101)
    expect(await statusOf(port, path, { origin: 'https://evil.example' })).toBe(403)
    expect(await statusOf(port, path, { 'sec-fetch-site': 'cross-site' })).toBe(403)
    expect(await statusOf(port, path, { host: 'evil.example' })).toBe(421)
    for (const elsewhere of [
      '/',
      '//',
      '/%',
      'http://[',
      '/api/levels',
      LIVE_PATH,
      `${path}/more`,
      LIVE_PATH.replace(':id', freshId()),
    ])
      expect(await statusOf(port, elsewhere), elsewhere).toBe(404)
    const guarded = locked.get().port
    const { id } = (await (
      await fetch(`${locked.get().url}/api/levels`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'authorization': `Bearer ${KEY}` },
        body: JSON.stringify({ name: 'Behind the door', from: 'empty' }),
      })
    ).json()) as { id: string }
    const locked_ = LIVE_PATH.replace(':id', id)
    expect(await statusOf(guarded, locked_)).toBe(401)
    expect(await statusOf(guarded, locked_, { authorization: 'Bearer wrong' })).toBe(401)
    expect(await statusOf(guarded, locked_, { authorization: `Bearer ${KEY}` })).toBe(101)
  })

  it('says to who comes without a socket what it is for', async () => {
    const level = await api.newLevel()
    expect(await api.error('GET', LIVE_PATH.replace(':id', level.id))).toMatchObject({ status: 426, code: 'upgrade' })
  })

  it('is closed on whoever speaks, and the server answers others as before', async () => {
    const level = await api.newLevel()
    for (const said of ['{}', 'x'.repeat(1_000_000), new Uint8Array(1000)]) {
      const { socket } = await page(api.get(), level.id)
      const closed = once(socket, 'close') as Promise<[number]>
      socket.send(said)
      expect((await closed)[0]).toBe(1008)
    }
    expect((await api.call('GET', '/api/health')).status).toBe(200)
  })

  it('is left by a server that stops, which says so', async () => {
    const third = await makeServer({ database: api.get().databaseUrl })
    const level = await api.newLevel()
    const { socket } = await page(third, level.id)
    const closed = once(socket, 'close') as Promise<[number]>
    await third.end('SIGTERM')
    expect((await closed)[0]).toBe(1001)
    await third.dispose()
  })
})
