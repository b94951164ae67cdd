import { once } from 'node:events'
import { readFileSync } from 'node:fs'
import type { Server } from 'node:http'
import { createServer } from 'node:http'
import { setTimeout as sleep } from 'node:timers/promises'
import proxies from 'http-proxy'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { WebSocket } from 'ws'
import { LIVE_PATH, liveMessageSchema } from '../../core/api/live'
import { journalSchema, kitSchema, levelSchema, progressSchema } from '../../core/api/schema'
import type { Change } from '../../core/level/schema'
import type { TestServer } from '../server'
import { makeServer } from '../server'
import { change, freshId, newGroup } from './support'

const JSON_TYPE = { 'content-type': 'application/json' }

/** Asks one address, whoever answers there. */
function asker(url: string) {
  const ask = (method: string, path: string, body?: unknown) =>
    fetch(url + path, { method, headers: JSON_TYPE, body: body === undefined ? undefined : JSON.stringify(body) })
  const json = async (path: string) => (await ask('GET', path)).json() as Promise<unknown>
  const newLevel = async (from = 'empty') =>
    ((await (await ask('POST', '/api/levels', { name: 'Several', from })).json()) as { id: string }).id
  /** Sends a change until it is answered, as a page does: also more than once. */
  const save = async (level: string, made: Change) => {
    for (let tries = 0; tries < 100; tries++) {
      const known = levelSchema.safeParse(await json(`/api/levels/${level}`).catch(() => null))
      const answer = known.success
        ? await ask('POST', `/api/levels/${level}/changes`, {
            baseRevision: known.data.revision,
            changes: [made],
          }).catch(() => null)
        : null
      if (answer?.status === 200) return
      await sleep(50)
    }
    throw new Error('a change was never taken')
  }
  return { ask, json, newLevel, save }
}

/** The furthest that a page hears of a level; it comes back by itself when its connection is cut. */
function listener(url: string, level: string) {
  const state = { revision: -1, opened: 0, over: false }
  const open = () => {
    if (state.over) return
    const socket = new WebSocket(url.replace('http', 'ws') + LIVE_PATH.replace(':id', level))
    socket.on('open', () => state.opened++)
    socket.on('message', data => {
      const message = liveMessageSchema.parse(JSON.parse(String(data)))
      if ('revision' in message) state.revision = Math.max(state.revision, message.revision)
    })
    socket.on('error', () => {})
    socket.on('close', () => setTimeout(open, 100))
  }
  open()
  return state
}

const until = async (test: () => boolean, seconds = 20) => {
  for (let i = 0; i < seconds * 50 && !test(); i++) await sleep(20)
  return test()
}

describe('three servers behind a proxy that asks each in turn', () => {
  const servers: TestServer[] = []
  let proxy: Server
  let front: ReturnType<typeof asker> & { url: string }

  beforeAll(async () => {
    servers.push(await makeServer())
    for (let i = 0; i < 2; i++) servers.push(await makeServer({ database: servers[0]!.databaseUrl }))
    let turn = 0
    const target = () => ({ target: servers[turn++ % servers.length]!.url })
    const passing = proxies.createProxyServer()
    passing.on('error', (_, __, answer) => {
      if ('writeHead' in answer) answer.writeHead(502).end()
      else answer.destroy()
    })
    proxy = createServer((request, answer) => passing.web(request, answer, target()))
    proxy.on('upgrade', (request, socket, head) => passing.ws(request, socket, head, target()))
    proxy.listen(0, '127.0.0.1')
    await once(proxy, 'listening')
    const url = `http://127.0.0.1:${(proxy.address() as { port: number }).port}`
    front = { ...asker(url), url }
  })
  afterAll(async () => {
    proxy.closeAllConnections()
    proxy.close()
    for (const server of servers.toReversed()) await server.dispose()
  })

  it('are one: a level, its kit and what is handed over, with how far that is, wherever it is asked', async () => {
    const level = await front.newLevel('demo')
    for (let i = 0; i < 6; i++) await front.save(level, change(newGroup().make))
    const seen = await Promise.all(servers.map(({ url }) => asker(url).json(`/api/levels/${level}`)))
    expect(seen.map(each => levelSchema.parse(each).revision)).toEqual([6, 6, 6])
    const { id: _, ...thing } = levelSchema.parse(seen[0]).placements.find(({ kind }) => kind === 'part')!
    const made = await front.ask('POST', '/api/parts/made', {
      id: freshId(),
      name: 'Made anywhere',
      kind: 'prop',
      tags: [],
      inKit: true,
      kit: 'Made here',
      operations: [{ do: 'put', id: freshId(), fields: { ...thing, parentId: null, layerId: null } }],
    })
    expect(made.status, await made.clone().text()).toBe(200)
    for (const { url } of servers)
      expect(kitSchema.parse(await asker(url).json('/api/kit')).parts.map(({ name }) => name)).toContain(
        'Made anywhere',
      )
    // Each question may reach a server that does not make the file.
    for (const { url } of servers) await asker(url).json(`/api/progress/${freshId()}`)
    await sleep(300)
    const ticket = freshId()
    const shares: (number | null)[] = []
    let isMade = false
    const file = front.ask('GET', `/api/levels/${level}/export.glb?ticket=${ticket}`).finally(() => (isMade = true))
    while (!isMade) {
      const told = await Promise.all(servers.map(({ url }) => asker(url).json(`/api/progress/${ticket}`)))
      await sleep(20)
      shares.push(...told.map(each => progressSchema.parse(each).share))
    }
    expect((await file).status).toBe(200)
    const known = shares.filter(share => share !== null)
    expect(known.every(share => share >= 0 && share <= 1)).toBe(true)
    // More than the one that makes it knows of it.
    expect(shares.some((share, i) => share !== null && shares[i - (i % 3) + ((i + 1) % 3)] !== null)).toBe(true)
  })

  it('keep each change once, and tell all pages, while one after the other is killed', async () => {
    const level = await front.newLevel()
    const pages = Array.from({ length: 3 }, () => listener(front.url, level))
    expect(await until(() => pages.every(({ opened }) => opened > 0))).toBe(true)
    const made = Array.from({ length: 30 }, () => change(newGroup().make))
    let isOver = false
    const writing = Promise.all(
      [0, 1, 2].map(async writer => {
        for (let i = writer; i < made.length; i += 3) await front.save(level, made[i]!)
      }),
    ).finally(() => (isOver = true))
    for (const server of servers) {
      if (isOver) break
      await sleep(150)
      await server.end('SIGKILL')
      await sleep(200)
      await server.start()
    }
    await writing
    const journal = journalSchema.parse(await front.json(`/api/levels/${level}/journal?after=0`))
    expect(journal.entries.map(({ id }) => id).toSorted()).toEqual(made.map(({ id }) => id).toSorted())
    expect(levelSchema.parse(await front.json(`/api/levels/${level}`)).placements).toHaveLength(made.length)
    expect(await until(() => pages.every(({ revision }) => revision === made.length))).toBe(true)
    for (const page of pages) page.over = true
  })
})

describe('several processes behind one port', () => {
  it('are started again when one is killed, and end together', async () => {
    const server = await makeServer({ processes: 2 })
    const { newLevel, save, json } = asker(server.url)
    const level = await newLevel()
    const page = listener(server.url, level)
    await save(level, change(newGroup().make))
    expect(await until(() => page.revision === 1)).toBe(true)
    const children = () =>
      readFileSync(`/proc/${server.pid()}/task/${server.pid()}/children`, 'utf8').split(' ').filter(Boolean).map(Number)
    const before = children()
    expect(before).toHaveLength(2)
    process.kill(before[0]!, 'SIGKILL')
    expect(await until(() => children().length === 2 && !children().includes(before[0]!))).toBe(true)
    await save(level, change(newGroup().make))
    expect(await until(() => page.revision === 2)).toBe(true)
    expect(levelSchema.parse(await json(`/api/levels/${level}`)).placements).toHaveLength(2)
    page.over = true
    await server.end('SIGTERM')
    expect(before.map(pid => isRunning(pid))).toEqual([false, false])
    await server.dispose()
  })
})

function isRunning(pid: number): boolean {
  try {
    process.kill(pid, 0)
    return true
  } catch {
    return false
  }
}
