import { once } from 'node:events'
import { readFileSync } from 'node:fs'
import { setTimeout as sleep } from 'node:timers/promises'
import Ajv from 'ajv/dist/2020'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { WebSocket } from 'ws'
import type { FeedMessage } from '../../core/api/feed'
import { feedJsonSchema } from '../../core/api/feed'
import type { PersonKey } from '../../core/api/accounts'
import { LIVE_PATH } from '../../core/api/live'
import type { Level } from '../../core/api/schema'
import { applyChange } from '../../core/level/change'
import { Level as LevelRecords } from '../../core/level/level'
import type { TestServer } from '../server'
import { makeServer } from '../server'
import { change, freshId, newGroup, put, useServer } from './support'

const api = useServer()
let other: TestServer
beforeAll(async () => {
  other = await makeServer({ database: api.get().databaseUrl })
})
afterAll(() => other.dispose())

const isValid = new Ajv({ formats: { 'uuid': true, 'date-time': true } }).compile(
  JSON.parse(readFileSync('docs/live.schema.json', 'utf8')) as object,
)

/** Another program that reads a feed by server-sent events, as the HTML standard has them (9.2.6). */
async function events(url: string, headers: Record<string, string> = {}) {
  const leaving = new AbortController()
  const response = await fetch(url, { headers, signal: leaving.signal })
  const told: FeedMessage[] = []
  const ids: string[] = []
  const over = (async () => {
    let rest = ''
    const decoder = new TextDecoder()
    for await (const bytes of response.body!) {
      const blocks = (rest + decoder.decode(bytes, { stream: true })).split('\n\n')
      rest = blocks.pop()!
      for (const block of blocks) {
        const fields = new Map(block.split('\n').map(line => line.split(/: (.*)/s) as [string, string]))
        const message = JSON.parse(fields.get('data')!) as FeedMessage
        expect(fields.get('event')).toBe(message.kind)
        expect([isValid(message), isValid.errors]).toEqual([true, null])
        if (fields.has('id')) ids.push(fields.get('id')!)
        told.push(message)
      }
    }
  })().catch(() => {})
  return { response, told, ids, over, leave: () => leaving.abort() }
}

/** The same by a WebSocket. */
async function texts(url: string, headers: Record<string, string> = {}) {
  const socket = new WebSocket(url.replace('http', 'ws'), { headers })
  const told: FeedMessage[] = []
  socket.on('message', data => {
    const message = JSON.parse(String(data)) as FeedMessage
    expect([isValid(message), isValid.errors]).toEqual([true, null])
    told.push(message)
  })
  await once(socket, 'open')
  return { socket, told, leave: () => socket.close() }
}

const of = <K extends FeedMessage['kind']>(told: FeedMessage[], kind: K) =>
  told.filter((message): message is Extract<FeedMessage, { kind: K }> => message.kind === kind)
const revisions = (told: FeedMessage[]) => of(told, 'change').map(({ revision }) => revision)

it('the schema of the feed is published as it is', () => {
  expect(JSON.parse(readFileSync('docs/live.schema.json', 'utf8'))).toEqual(feedJsonSchema())
})

describe('the live feed', () => {
  it('tells all that is done, once and in order, by events and by texts, on any server; with it the level is the same', async () => {
    const level = await api.newLevel()
    const first = newGroup()
    await api.save(level.id, 0, change(first.make))
    const start = await api.level(level.id)
    const feeds = await Promise.all([
      events(`${api.get().url}/api/levels/${level.id}/feed?after=1`),
      texts(`${other.url}/api/levels/${level.id}/feed/socket?after=1`),
      events(`${other.url}/api/levels/${level.id}/feed`),
    ])
    for (let i = 0; i < 12; i++)
      await api
        .save(
          level.id,
          0,
          i % 3 === 2 ? change(put(first.placement.id, { translation: [i, 0, 0] })) : change(newGroup().make),
        )
        .catch(async () => api.save(level.id, i + 1, change(put(first.placement.id, { translation: [i, 0, 0] }))))
    const now = await api.level(level.id)
    const expected = Array.from({ length: now.revision - 1 }, (_, i) => i + 2)
    for (const { told, leave } of feeds) {
      await expect.poll(() => revisions(told)).toEqual(expected)
      expect(told[0]).toMatchObject({ kind: 'begin', revision: 1, name: 'Test level' })
      const built = new LevelRecords(start.placements)
      for (const message of of(told, 'change')) applyChange(built, message.change.operations, () => true)
      expect([...built.placements()].toSorted(byId)).toEqual(now.placements.toSorted(byId))
      leave()
    }
    expect(feeds[0].response.headers.get('content-type')).toBe('text/event-stream')
    expect(feeds[0].ids.map(Number)).toEqual([1, ...expected])
  })

  it('goes on where one left off, also across servers, by what a browser says of itself', async () => {
    const level = await api.newLevel()
    const saving = async (count: number) => {
      for (let i = 0; i < count; i++)
        await api.save(level.id, (await api.level(level.id)).revision, change(newGroup().make))
    }
    const before = await events(`${api.get().url}/api/levels/${level.id}/feed`)
    await saving(2)
    await expect.poll(() => revisions(before.told)).toEqual([1, 2])
    before.leave()
    await before.over
    await saving(3)
    // The header goes before the address, which is as old as the page.
    const headers = { 'last-event-id': before.ids.at(-1)! }
    const after = await events(`${other.url}/api/levels/${level.id}/feed?after=0`, headers)
    await expect.poll(() => revisions(after.told)).toEqual([3, 4, 5])
    after.leave()
  })

  it('tells what is dragged while it is, what the level is called, and that the kit is another', async () => {
    const level = await api.newLevel()
    const group = newGroup()
    await api.save(level.id, 0, change(group.make))
    const feed = await events(`${other.url}/api/levels/${level.id}/feed`)
    const page = new WebSocket(api.get().url.replace('http', 'ws') + LIVE_PATH.replace(':id', level.id))
    await once(page, 'open')
    const thing = {
      id: group.placement.id,
      parentId: null,
      translation: [1, 2, 3],
      rotation: [0, 0, 0, 1],
      scale: [1, 1, 1],
      pivot: [0, 0, 0],
    }
    const say = (here: object) => page.send(JSON.stringify({ here }))
    say({ name: 'Ada', mark: 1 })
    say({ drags: { things: [{ ...thing, partId: null }], of: 1 } })
    await expect.poll(() => of(feed.told, 'moving').at(-1)).toMatchObject({ by: { name: 'Ada' }, things: [thing] })
    say({ drags: null })
    await expect.poll(() => of(feed.told, 'moving').at(-1)?.things).toEqual([])
    say({ drags: { things: [{ ...thing, partId: null }], of: 1 } })
    await expect.poll(() => of(feed.told, 'moving').at(-1)?.things.length).toBe(1)
    // Who is gone holds nothing any more.
    page.close()
    await expect.poll(() => of(feed.told, 'moving').at(-1)?.things).toEqual([])
    await api.call('PATCH', `/api/levels/${level.id}`, { name: 'Otherwise' })
    await expect.poll(() => of(feed.told, 'named')).toMatchObject([{ name: 'Otherwise', deleted: false }])
    feed.leave()
  })

  it('is not kept from others by who takes nothing, who gets all of it all the same', async () => {
    const level = await api.newLevel()
    const slow = await fetch(`${api.get().url}/api/levels/${level.id}/feed?after=0`)
    const quick = await events(`${api.get().url}/api/levels/${level.id}/feed?after=0`)
    // More than any buffer between takes.
    const many = () => change(...Array.from({ length: 2000 }, () => newGroup().make))
    const before = api.get().memory()
    for (let i = 0; i < 12; i++) await api.save(level.id, i, many())
    await expect.poll(() => revisions(quick.told).length, { timeout: 20_000 }).toBe(12)
    await sleep(300)
    expect(api.get().memory() - before).toBeLessThan(400 * 1024 * 1024)
    const reader = slow.body!.getReader()
    let text = ''
    const decoder = new TextDecoder()
    while (!text.includes('id: 12\n')) text += decoder.decode((await reader.read()).value, { stream: true })
    expect([...text.matchAll(/^id: (\d+)$/gm)].map(([, id]) => Number(id))).toEqual([
      0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12,
    ])
    await reader.cancel()
    quick.leave()
  })

  it('is refused like any other request, and listens to nobody', async () => {
    const level = await api.newLevel()
    for (const [path, status, field] of [
      [`/api/levels/${level.id}/feed?after=7`, 422, 'after'],
      [`/api/levels/${level.id}/feed?after=x`, 422, 'after'],
      [`/api/levels/${level.id}/feed?from=1`, 422, 'from'],
      [`/api/levels/${freshId()}/feed`, 404, undefined],
    ] as const)
      expect([path, await api.error('GET', path)]).toMatchObject([path, { status, ...(field && { field }) }])
    const socket = new WebSocket(`${api.get().url.replace('http', 'ws')}/api/levels/${level.id}/feed/socket?after=7`)
    expect((await once(socket, 'close'))[0]).toBe(1008)
    const talks = await texts(`${api.get().url}/api/levels/${level.id}/feed/socket`)
    talks.socket.send('{}')
    expect((await once(talks.socket, 'close'))[0]).toBe(1008)
  })

  it('ends for whoever may look no longer', async () => {
    const key = 'the-writing-key-of-the-tests'
    const locked = await makeServer({ env: { HANDY_GRID_KEY: key } })
    try {
      const ask = async (method: string, path: string, body: unknown) =>
        (
          await fetch(locked.url + path, {
            method,
            headers: { 'authorization': `Bearer ${key}`, 'content-type': 'application/json' },
            body: JSON.stringify(body),
          })
        ).json()
      const { id } = (await ask('POST', '/api/levels', { name: 'Looked at' })) as Level
      const made = (await ask('POST', '/api/people', { name: 'Viewer', role: 'look' })) as PersonKey
      const headers = { authorization: `Bearer ${made.key}` }
      const [bySse, byText] = [
        await events(`${locked.url}/api/levels/${id}/feed`, headers),
        await texts(`${locked.url}/api/levels/${id}/feed/socket`, headers),
      ]
      await expect.poll(() => [bySse.told.length > 0, byText.told.length > 0]).toEqual([true, true])
      const closed = once(byText.socket, 'close')
      await ask('PATCH', `/api/people/${made.person.id}`, { levels: [{ level: id, role: 'none' }] })
      await bySse.over
      await closed
      expect((await fetch(`${locked.url}/api/levels/${id}/feed`, { headers })).status).toBe(404)
      expect((await fetch(`${locked.url}/api/levels/${id}/feed`)).status).toBe(401)
    } finally {
      await locked.dispose()
    }
  })

  it('takes no places from requests, however many listen', async () => {
    const level = await api.newLevel()
    const feeds = await Promise.all(
      Array.from({ length: 400 }, () => fetch(`${api.get().url}/api/levels/${level.id}/feed`)),
    )
    expect(new Set(feeds.map(({ status }) => status))).toEqual(new Set([200]))
    const asked = await Promise.all(Array.from({ length: 200 }, () => fetch(`${api.get().url}/api/levels`)))
    expect(new Set(asked.map(({ status }) => status))).toEqual(new Set([200]))
    await Promise.all(feeds.map(feed => feed.body!.cancel()))
  })
})

const byId = (a: { id: string }, b: { id: string }) => (a.id < b.id ? -1 : 1)
