import { randomUUID } from 'node:crypto'
import { once } from 'node:events'
import { request } from 'node:http'
import { setTimeout as sleep } from 'node:timers/promises'
import fc from 'fast-check'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { WebSocket } from 'ws'
import { journalSchema } from '../../core/api/schema'
import type { LiveMessage } from '../../core/api/live'
import { LIVE_PATH, liveMessageSchema } from '../../core/api/live'
import type { Person, Said } from '../../core/api/people'
import { withUpdates } from '../../core/api/people'
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
    const message = liveMessageSchema.parse(JSON.parse(String(data)))
    if ('revision' in message && !told.includes(message.revision)) told.push(message.revision)
  })
  // Who is there comes first.
  while (told.length === 0) await once(socket, 'message')
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

describe('people in a level', () => {
  /** A page that keeps all it is told of people and calls, and of the level besides. */
  async function visitor(server: TestServer, level: string, headers: Record<string, string> = {}) {
    const socket = new WebSocket(addressOf(server, level), { headers })
    const seen = { people: new Map<string, Person>(), calls: [] as string[], other: [] as LiveMessage[], self: '' }
    socket.on('message', data => {
      const message = liveMessageSchema.parse(JSON.parse(String(data)))
      if ('people' in message) {
        seen.self ||= message.you ?? ''
        seen.people = withUpdates(seen.people, message, seen.self)
      } else if ('call' in message) seen.calls.push(message.by)
      else if (!('revision' in message)) seen.other.push(message)
    })
    await once(socket, 'message')
    const say = (said: Said) => socket.send(JSON.stringify(said))
    const sees = (test: (people: Person[]) => boolean) => until(() => test([...seen.people.values()]))
    return { socket, seen, say, sees }
  }

  const until = async (test: () => boolean) => {
    for (let i = 0; i < 250 && !test(); i++) await sleep(20)
    return test()
  }

  it('see each other on whatever server, with what each may do; who leaves is gone, with a server too', async () => {
    const level = await api.newLevel()
    const third = await makeServer({ database: api.get().databaseUrl })
    const [ada, ben, cy] = [
      await visitor(api.get(), level.id),
      await visitor(other, level.id),
      await visitor(third, level.id),
    ]
    ada.say({ here: { name: 'Ada', mark: 1 } })
    ben.say({ here: { name: 'Ben', mark: 2, picked: [freshId()] } })
    cy.say({ here: { name: 'Cy' } })
    const names = (people: Person[]) =>
      people
        .map(({ name }) => name)
        .toSorted()
        .join()
    expect(await ada.sees(people => names(people) === 'Ben,Cy')).toBe(true)
    expect(await ben.sees(people => names(people) === 'Ada,Cy')).toBe(true)
    expect(await cy.sees(people => names(people) === 'Ada,Ben')).toBe(true)
    expect([...ada.seen.people.values()].map(({ role }) => role)).toEqual(['keep', 'keep'])
    // Who comes later is told all of it at once, and it is in the list of levels, on any server.
    const late = await visitor(other, level.id)
    expect(names([...late.seen.people.values()])).toBe('Ada,Ben,Cy')
    const listed = async (server: TestServer) =>
      ((await (await fetch(`${server.url}/api/levels`)).json()) as { levels: { id: string; here: string[] }[] }).levels
        .find(({ id }) => id === level.id)!
        .here.toSorted()
    expect([await listed(api.get()), await listed(other)]).toEqual([
      ['Ada', 'Ben', 'Cy'],
      ['Ada', 'Ben', 'Cy'],
    ])
    ada.say({ call: { to: null, at: [1, 2, 3], from: [0, 0, 0] } })
    expect(await until(() => ben.seen.calls.length > 0 && cy.seen.calls.length > 0)).toBe(true)
    expect([ada.seen.calls, ben.seen.calls]).toEqual([[], [ada.seen.self]])
    await third.end('SIGTERM')
    expect(await ada.sees(people => names(people) === 'Ben')).toBe(true)
    ben.socket.close()
    expect(await ada.sees(people => people.length === 0)).toBe(true)
    await third.dispose()
    for (const { socket } of [ada, late]) socket.close()
  })

  it('come back after the database has cut all connections', async () => {
    const level = await api.newLevel()
    const [ada, ben] = [await visitor(api.get(), level.id), await visitor(other, level.id)]
    ada.say({ here: { name: 'Ada' } })
    expect(await ben.sees(people => people.length === 1)).toBe(true)
    const admin = new pg.Client({ connectionString: api.get().databaseUrl })
    await admin.connect()
    await admin.query(
      'select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()',
    )
    await admin.end()
    ada.say({ here: { name: 'Ada Zwei' } })
    expect(await ben.sees(people => people[0]?.name === 'Ada Zwei')).toBe(true)
    for (const { socket } of [ada, ben]) socket.close()
  })

  it('are told when the level is named otherwise, deleted or brought back, and when the kit changes', async () => {
    const level = await api.newLevel()
    const { socket, seen } = await visitor(other, level.id)
    const path = `/api/levels/${level.id}`
    await api.call('PATCH', path, { name: 'Another name' })
    await api.call('DELETE', path)
    await api.call('PATCH', path, { deleted: false })
    // A server that begins to listen says that the kit may be another.
    const names = () => seen.other.filter(message => 'name' in message)
    expect(await until(() => names().length === 3)).toBe(true)
    const named = (deleted: boolean) => ({ level: level.id, name: 'Another name', deleted })
    expect(names()).toEqual([named(false), named(true), named(false)])
    const before = seen.other.length
    const kit = (await api.call('GET', '/api/kit')).json as { parts: { id: string; name: string }[] }
    const part = kit.parts[0]!
    await api.call('PATCH', `/api/parts/${part.id}`, { name: part.name })
    expect(await until(() => seen.other.length === before + 1)).toBe(true)
    expect(seen.other.at(-1)).toEqual({ level: level.id, kit: true })
    socket.close()
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

  it('is closed on whoever says what makes no sense, too much or too often, and others are answered as before', async () => {
    const level = await api.newLevel()
    const here = (fields: object) => JSON.stringify({ here: fields })
    for (const [said, code] of [
      ['{}', 1008],
      [here({ name: '' }), 1008],
      [here({ name: 'Ada', mark: 99 }), 1008],
      // Who somebody is, and what they may do, is not for them to say.
      [here({ name: 'Ada', id: freshId() }), 1008],
      [here({ name: 'Ada', role: 'keep' }), 1008],
      [here({ name: 'Ada', proven: true }), 1008],
      [here({ name: 'Ada', picked: Array.from({ length: 101 }, freshId) }), 1008],
      [JSON.stringify({ call: { to: null, at: [1e300, 0, 0], from: [0, 0, 0] } }), 1008],
      // RFC 6455, 7.4.1: a message that is too big.
      ['x'.repeat(1_000_000), 1009],
      [new Uint8Array(1000), 1008],
    ] as const) {
      const { socket } = await page(api.get(), level.id)
      const closed = once(socket, 'close') as Promise<[number]>
      socket.send(said)
      expect((await closed)[0], String(said).slice(0, 80)).toBe(code)
    }
    const { socket } = await page(api.get(), level.id)
    const closed = once(socket, 'close') as Promise<[number]>
    for (let i = 0; i < 100; i++) socket.send(here({ mark: i % 8 }))
    expect((await closed)[0]).toBe(1008)
    expect((await api.call('GET', '/api/health')).status).toBe(200)
  })

  it('takes or closes on whatever is said, and nobody else notices', async () => {
    const level = await api.newLevel()
    const { socket: quiet } = await page(api.get(), level.id)
    let isQuiet = true
    quiet.on('close', () => (isQuiet = false))
    const number = fc.oneof(fc.double(), fc.integer(), fc.constantFrom('1', null, 1e400))
    const point = fc.array(number, { maxLength: 5 })
    const held = fc.record({ id: fc.uuid(), parentId: fc.option(fc.uuid()), translation: point, rotation: point })
    const said = fc.oneof(
      fc.json(),
      fc.string(),
      fc.record({
        here: fc.record({ name: fc.string(), mark: number, view: fc.record({ eye: point, target: point }) }),
      }),
      fc.record({ here: fc.record({ drags: fc.record({ things: fc.array(held), of: number }) }) }),
      fc.record({ call: fc.record({ to: fc.option(fc.uuid()), at: point, from: point }) }),
    )
    await fc.assert(
      fc.asyncProperty(said, async what => {
        const { socket } = await page(api.get(), level.id)
        let code = 0
        socket.on('close', closed => (code = closed))
        socket.send(typeof what === 'string' ? what : JSON.stringify(what))
        socket.ping()
        await Promise.race([once(socket, 'pong'), once(socket, 'close')])
        expect([0, 1008]).toContain(code)
        socket.terminate()
      }),
      { numRuns: 60 },
    )
    expect([isQuiet, (await api.call('GET', '/api/health')).status]).toEqual([true, 200])
    quiet.close()
  })

  it('shuts within a second behind whoever ends their session', async () => {
    const { url } = locked.get()
    const headers = { 'content-type': 'application/json' }
    const begun = await fetch(`${url}/api/session`, { method: 'POST', headers, body: JSON.stringify({ key: KEY }) })
    const cookie = begun.headers.get('set-cookie')!.split(';')[0]!
    const made = await fetch(`${url}/api/levels`, {
      method: 'POST',
      headers: { ...headers, cookie },
      body: JSON.stringify({ name: 'For a while', from: 'empty' }),
    })
    const { id } = (await made.json()) as { id: string }
    const socket = new WebSocket(addressOf(locked.get(), id), { headers: { cookie } })
    await once(socket, 'message')
    const closed = once(socket, 'close') as Promise<[number]>
    const asked = performance.now()
    expect((await fetch(`${url}/api/session`, { method: 'DELETE', headers: { cookie } })).status).toBe(204)
    expect((await closed)[0]).toBe(1008)
    expect(performance.now() - asked).toBeLessThan(1000)
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
