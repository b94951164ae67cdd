import { once } from 'node:events'
import { readFileSync } from 'node:fs'
import { setTimeout as sleep } from 'node:timers/promises'
import { v7 } from 'uuid'
import { afterAll, beforeAll, it } from 'vitest'
import { WebSocket } from 'ws'
import { LIVE_PATH, liveMessageSchema } from '../core/api/live'
import type { Said } from '../core/api/people'
import { SAID_EVERY } from '../core/api/people'
import { createPlacement } from '../core/level/create'
import type { TestServer } from '../tests/server'
import { makeServer } from '../tests/server'
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

const newLevel = async (name: string) => {
  const made = await fetch(`${server.url}/api/levels`, {
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
      let base = 0
      await sleep(i * 37)
      while (!isOver) {
        const { id, ...fields } = createPlacement({ id: v7(), name: 'Stall', kind: 'group' })
        const answer = await fetch(`${server.url}/api/levels/${level}/changes`, {
          method: 'POST',
          headers: JSON_TYPE,
          body: JSON.stringify({
            baseRevision: base,
            changes: [{ id: v7(), label: 'Put', author: 'Bench', operations: [{ do: 'put', id, fields }] }],
          }),
        })
        const { revision } = (await answer.json()) as { revision: number }
        kept.set(revision, performance.now())
        base = revision
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
