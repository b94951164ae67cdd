import { once } from 'node:events'
import { readFileSync } from 'node:fs'
import { cpus } from 'node:os'
import { setTimeout as sleep } from 'node:timers/promises'
import { v7 } from 'uuid'
import { afterAll, beforeAll, it } from 'vitest'
import { WebSocket } from 'ws'
import { LIVE_PATH, liveMessageSchema } from '../core/api/live'
import type { Said } from '../core/api/people'
import { SAID_EVERY } from '../core/api/people'
import { createPlacement } from '../core/level/create'
import { demoId } from '../demo/kit'
import type { TestServer } from '../tests/server'
import { makeServer } from '../tests/server'
import { launchBrowser, orbit } from './in-page'
import { reportCompared, reportGrowth } from './report'

// How long it takes from a change that is kept until another page has read it, and what people who see each other cost.
// Pages are sockets of this process, which read the journal as pages do; server, database and pages are on one machine.
let server: TestServer
beforeAll(async () => {
  server = await makeServer()
}, 120_000)
afterAll(() => server?.dispose())

const SECONDS = Number(process.env.BENCH_SECONDS ?? 10)
const JSON_TYPE = { 'content-type': 'application/json' }

const newLevel = async (name: string, at = server) => {
  const made = await fetch(`${at.url}/api/levels`, {
    method: 'POST',
    headers: JSON_TYPE,
    body: JSON.stringify({ name }),
  })
  return ((await made.json()) as { id: string }).id
}

/** A page that has a level open. */
async function open(level: string, onRevision: (revision: number) => unknown = () => {}) {
  const socket = new WebSocket(server.url.replace('http', 'ws') + LIVE_PATH.replace(':id', level))
  const seen = { bytes: 0 }
  socket.on('message', data => {
    const text = String(data)
    seen.bytes += text.length
    const message = liveMessageSchema.parse(JSON.parse(text))
    if ('revision' in message) onRevision(message.revision)
  })
  await once(socket, 'open')
  return { socket, seen, say: (said: Said) => socket.send(JSON.stringify(said)) }
}

/** Somebody who makes a thing each time. @returns the revision that it is kept as */
function writer(at: TestServer, level: string): () => Promise<number> {
  let base = 0
  return async () => {
    const { id, ...fields } = createPlacement({ id: v7(), name: 'Stall', kind: 'group' })
    const answer = await fetch(`${at.url}/api/levels/${level}/changes`, {
      method: 'POST',
      headers: JSON_TYPE,
      body: JSON.stringify({
        baseRevision: base,
        changes: [{ id: v7(), label: 'Put', author: 'Bench', operations: [{ do: 'put', id, fields }] }],
      }),
    })
    base = ((await answer.json()) as { revision: number }).revision
    return base
  }
}

const percentile = (values: number[], share: number) =>
  values.toSorted((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * share))] ?? NaN

/** Processor seconds that the server has taken so far (Linux, proc(5): user and system, in hundredths). */
function processorTime(): number {
  const fields = readFileSync(`/proc/${server.pid()}/stat`, 'utf8').split(') ')[1]!.split(' ')
  return (Number(fields[11]) + Number(fields[12])) / 100
}

it('from a change to the pages of the others', async () => {
  const sizes = [2, 10, 50]
  const found: number[][] = []
  for (const count of sizes) {
    const level = await newLevel('Latency')
    const kept = new Map<number, number>()
    const read: { revision: number; at: number }[] = []
    const pages = await Promise.all(
      Array.from({ length: count }, async () => {
        let [at, isReading] = [0, false]
        const readOn = async (revision: number) => {
          if (isReading || revision <= at) return
          isReading = true
          while (at < revision) {
            const answer = await fetch(`${server.url}/api/levels/${level}/journal?after=${at}`)
            const { entries } = (await answer.json()) as { entries: { revision: number }[] }
            if (entries.length === 0) break
            for (const entry of entries) read.push({ revision: entry.revision, at: performance.now() })
            at = entries.at(-1)!.revision
          }
          isReading = false
        }
        return open(level, readOn)
      }),
    )
    let isOver = false
    const writing = Array.from({ length: Math.min(count, 10) }, async (_, i) => {
      const write = writer(server, level)
      await sleep(i * 37)
      while (!isOver) {
        const revision = await write()
        kept.set(revision, performance.now())
        await sleep(500)
      }
    })
    await sleep(SECONDS * 1000)
    isOver = true
    await Promise.all(writing)
    await sleep(1000)
    for (const { socket } of pages) socket.terminate()
    const took = read.flatMap(({ revision, at }) => (kept.has(revision) ? [at - kept.get(revision)!] : []))
    found.push([0.5, 0.95, 0.99].map(share => Math.max(percentile(took, share), 0)))
  }
  reportGrowth({
    topic: 'Serving',
    title: 'From a change to the pages of the others',
    about:
      'From the answer to who did it until another page has read it from the journal; up to ten of those who are there change something twice a second.',
    unit: 'ms',
    of: 'people',
    sizes,
    rows: ['half', '95 of 100', '99 of 100'].map((what, i) => ({ what, values: found.map(each => each[i]!) })),
  })
}, 120_000)

it('changes by one, two and three processes', async () => {
  const sizes = [1, 2, 3]
  const found: number[][] = []
  for (const processes of sizes) {
    const several = await makeServer({ processes })
    const rates: number[] = []
    for (const isOne of [false, true]) {
      const all = isOne ? await newLevel('One', several) : null
      let [done, isOver] = [0, false]
      const writing = Array.from({ length: 12 }, async (_, i) => {
        const write = writer(several, all ?? (await newLevel(`Level ${i}`, several)))
        while (!isOver) {
          await write()
          done++
        }
      })
      await sleep(2000)
      done = 0
      await sleep(SECONDS * 1000)
      rates.push(done / SECONDS)
      isOver = true
      await Promise.all(writing)
    }
    found.push(rates)
    await several.dispose()
  }
  reportGrowth({
    topic: 'Serving',
    title: 'Changes by one, two and three processes',
    about: `Twelve who save without a pause, on a machine with ${cpus().length} processors, with its database and them.`,
    unit: 'a second',
    of: 'processes',
    sizes,
    rows: ['each in a level of their own', 'all in one level'].map((what, i) => ({
      what,
      values: found.map(each => each[i]!),
    })),
  })
}, 240_000)

it('frames of a page while others drag', async () => {
  const sizes = [0, 1, 10]
  const level = await newLevel('Drags')
  const crates = Array.from({ length: 1000 }, (_, i) => {
    const { id, ...fields } = createPlacement({
      id: v7(),
      name: 'Crate',
      kind: 'part',
      partId: demoId('part/Crate'),
      translation: [(i % 32) * 1.5, 0, Math.floor(i / 32) * 1.5],
    })
    return { do: 'put', id, fields }
  })
  await fetch(`${server.url}/api/levels/${level}/changes`, {
    method: 'POST',
    headers: JSON_TYPE,
    body: JSON.stringify({
      baseRevision: 0,
      changes: [{ id: v7(), label: 'Put', author: 'Bench', operations: crates }],
    }),
  })
  const browser = await launchBrowser()
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' })
  await page.goto(`${server.url}/levels/${level}`)
  await page.waitForFunction(() => window.handyGrid?.level(), null, { timeout: 240_000 })
  await page.evaluate(() => window.handyGrid!.rested())
  const found: number[][] = []
  for (const dragging of sizes) {
    const pages = await Promise.all(Array.from({ length: dragging }, () => open(level)))
    pages.forEach(({ say }, i) => say({ here: { name: `Person ${i}`, mark: i % 8 } }))
    let isOver = false
    const moving = (async () => {
      for (let x = 0; !isOver; x++) {
        pages.forEach(({ say }, i) => {
          const { id, fields } = crates[i * 40]!
          const thing = { ...fields, id, translation: [x / 7, 0.5, i] as [number, number, number], parentId: null }
          const { parentId, translation, rotation, scale, pivot } = thing
          say({
            here: {
              drags: { of: 1, things: [{ id, parentId, translation, rotation, scale, pivot, partId: null }] },
            },
          })
        })
        await sleep(SAID_EVERY)
      }
    })()
    await sleep(500)
    const times = await orbit(page)
    found.push([0.5, 0.95].map(share => percentile(times, share)))
    isOver = true
    await moving
    for (const { socket } of pages) socket.terminate()
    await sleep(1000)
  }
  await browser.close()
  reportGrowth({
    topic: 'Serving',
    title: 'Frames of a page while others drag',
    about:
      'A frame of an orbit among 1,000 crates, from a move of the pointer until it is drawn, in a window of 1280x800, drawn in software.',
    unit: 'ms',
    of: 'who drag',
    sizes,
    rows: ['half', '95 of 100'].map((what, i) => ({ what, values: found.map(each => each[i]!) })),
  })
}, 240_000)

it('what people who see each other cost', async () => {
  const dragged = (x: number): Said => ({
    here: {
      drags: {
        of: 1,
        things: [
          {
            id: v7(),
            parentId: null,
            translation: [x, 0.123456, -x],
            rotation: [0, 0.707106781, 0, 0.707106781],
            scale: [1, 1, 1],
            pivot: [0, 0, 0],
            partId: null,
          },
        ],
      },
    },
  })
  const rows: { what: string; value: number }[] = []
  for (const dragging of [0, 1, 10]) {
    const level = await newLevel('Drags')
    const pages = await Promise.all(Array.from({ length: 20 }, () => open(level)))
    pages.forEach(({ say }, i) => say({ here: { name: `Person ${i}`, mark: i % 8 } }))
    await sleep(500)
    const before = pages.reduce((sum, { seen }) => sum + seen.bytes, 0)
    const ends = Date.now() + SECONDS * 1000
    for (let x = 0; Date.now() < ends; x++) {
      for (const { say } of pages.slice(0, dragging)) say(dragged(x / 7))
      await sleep(SAID_EVERY)
    }
    const bytes = pages.reduce((sum, { seen }) => sum + seen.bytes, 0) - before
    rows.push({ what: `kB a second to each of 20, ${dragging} of whom drag`, value: bytes / 1000 / SECONDS / 20 })
    for (const { socket } of pages) socket.terminate()
  }
  const level = await newLevel('Idle')
  const before = server.memory()
  const idle = await Promise.all(Array.from({ length: 500 }, () => open(level)))
  idle.forEach(({ say }, i) => say({ here: { name: `Person ${i}`, mark: i % 8 } }))
  await sleep(3000)
  const begun = processorTime()
  await sleep(SECONDS * 1000)
  rows.push(
    { what: '% of a processor for 500 who are there', value: ((processorTime() - begun) / SECONDS) * 100 },
    { what: 'MB of memory for 500 who are there', value: (server.memory() - before) / 1e6 },
  )
  for (const { socket } of idle) socket.terminate()
  reportCompared({
    topic: 'Serving',
    title: 'What people who see each other cost',
    about: 'On the built server; who drags says where one thing is, twelve times a second.',
    unit: '',
    rows,
  })
}, 120_000)
