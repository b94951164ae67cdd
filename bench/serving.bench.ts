import { setTimeout as sleep } from 'node:timers/promises'
import { chromium } from '@playwright/test'
import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, it } from 'vitest'
import { HAND_OVER_ROUTES, ROUTES } from '../core/api/routes'
import { RULES } from '../core/arrange/rules'
import { createPlacement } from '../core/level/create'
import type { Change, Operation, Placement } from '../core/level/schema'
import { demoId } from '../demo/kit'
import type { TestServer } from '../tests/server'
import { makeServer } from '../tests/server'

// What the built server takes for requests, small and as large as it allows, and how long others wait meanwhile. All of
// it on one machine with its database and whoever asks; so the ratios to a plain select of the same rows, in the same
// run, are what counts.
let server: TestServer
beforeAll(async () => {
  server = await makeServer()
}, 120_000)
afterAll(() => server?.dispose())

let counter = 0
const id = () => `01a20000-0000-7000-8000-${(++counter).toString(16).padStart(12, '0')}`
const change = (operations: Operation[]): Change => ({ id: id(), label: 'Bench', author: 'Bench', operations })
const make = (given: Partial<Placement> = {}): Operation & { do: 'put' } => {
  const { id: own, ...fields } = createPlacement({
    id: id(),
    name: 'Crate',
    kind: 'part',
    partId: demoId('part/Crate'),
    ...given,
  })
  return { do: 'put', id: own, fields }
}

async function post(path: string, body: unknown): Promise<Response> {
  return fetch(server.url + path, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  })
}

async function newLevel(): Promise<string> {
  return ((await (await post('/api/levels', { name: 'Bench' })).json()) as { id: string }).id
}

async function save(level: string, baseRevision: number, ...changes: Change[]): Promise<number> {
  return saveText(level, JSON.stringify({ baseRevision, changes }))
}

/** Writing and reading large texts keeps this process from asking beside it, which would look as if the server did. */
async function saveText(level: string, text: string): Promise<number> {
  const response = await fetch(`${server.url}/api/levels/${level}/changes`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: text,
  })
  if (!response.ok) throw new Error(`${response.status} ${(await response.text()).slice(0, 300)}`)
  return ((await response.json()) as { revision: number }).revision
}

async function levelOf(count: number): Promise<string> {
  const level = await newLevel()
  await save(
    level,
    0,
    change(Array.from({ length: count }, (_, i) => make({ translation: [i % 300, 0, Math.floor(i / 300)], order: i }))),
  )
  return level
}

const percentile = (times: number[], share: number) =>
  times.toSorted((a, b) => a - b)[Math.min(Math.floor(times.length * share), times.length - 1)] ?? 0
const ms = (time: number) => `${time < 10 ? time.toFixed(1) : Math.round(time)} ms`

async function timed<T>(work: () => Promise<T>): Promise<[number, T]> {
  const started = performance.now()
  const result = await work()
  return [performance.now() - started, result]
}

/** Does something and, all the while, asks for the list of levels every few milliseconds. */
async function beside(work: () => Promise<unknown>): Promise<{ took: number; waited: number[] }> {
  const waited: number[] = []
  let isOver = false
  const asking = (async () => {
    while (!isOver) {
      waited.push((await timed(async () => (await fetch(`${server.url}/api/levels`)).text()))[0])
      await sleep(5)
    }
  })()
  const [took] = await timed(work)
  isOver = true
  await asking
  return { took, waited }
}

it('requests as large as they may be, and how long others wait', async () => {
  const rows: string[] = []
  const report = async (name: string, work: () => Promise<unknown>) => {
    const { took, waited } = await beside(work)
    rows.push(
      `${name.padEnd(62)}${ms(took).padStart(10)}${ms(percentile(waited, 0.5)).padStart(10)}${ms(percentile(waited, 0.99)).padStart(10)}${ms(Math.max(...waited)).padStart(10)}`,
    )
  }
  await report('nothing else', () => sleep(2000))
  const reportSave = async (name: string, ...changes: Change[]) => {
    const level = await newLevel()
    const text = JSON.stringify({ baseRevision: 0, changes })
    await report(name, () => saveText(level, text))
  }
  const nested = Array.from({ length: 10_000 }, () => make({ kind: 'group', partId: null }))
  nested.forEach((operation, i) => {
    if (i > 0) operation.fields.parentId = nested[i - 1]!.id
  })
  await reportSave('10,000 parents above one another', change(nested))
  const one = make({ kind: 'group', partId: null })
  await reportSave(
    '200,000 operations on one record',
    change([
      one,
      ...Array.from({ length: 199_999 }, (_, i): Operation => ({ do: 'put', id: one.id, fields: { order: i } })),
    ]),
  )
  await reportSave(
    '100,000 placements in one request',
    change(
      Array.from({ length: 100_000 }, (_, i) => make({ translation: [i % 300, 0, Math.floor(i / 300)], order: i })),
    ),
  )
  await reportSave(
    '20,000 layers',
    change(
      Array.from(
        { length: 20_000 },
        (_, i): Operation => ({
          do: 'put-layer',
          id: id(),
          fields: { name: `Layer ${i}`, color: '#b9a58b', visible: true, locked: false, order: i },
        }),
      ),
    ),
  )
  const busy = await newLevel()
  await save(busy, 0, ...Array.from({ length: 50 }, () => change(Array.from({ length: 1000 }, () => make()))))
  const many = JSON.stringify({ baseRevision: 0, changes: Array.from({ length: 1000 }, () => change([make()])) })
  await report('1,000 changes beside a journal of 50,000 operations', () => saveText(busy, many))
  const arranged = async (columns: number, rows: number) => {
    const level = await newLevel()
    const top = make({
      kind: 'arrangement',
      partId: null,
      own: {
        rule: {
          type: 'grid',
          counts: [columns, 1, rows],
          spacing: [1, 1, 1],
          measure: 'spacing',
          stagger: 0,
          bond: false,
          centred: false,
          rise: { by: 'rows', height: 0, every: 1 },
        },
      },
    })
    await save(level, 0, change([top, make({ parentId: top.id })]))
    return level
  }
  const exported = (level: string, instanced: boolean) => async () => {
    const response = await fetch(`${server.url}/api/levels/${level}/export.glb?instanced=${instanced}`)
    const { byteLength } = await response.arrayBuffer()
    rows.push(`  (${response.status}, ${(byteLength / 1e6).toFixed(1)} MB)`)
  }
  await report('hand over 100,000 copies by nodes', exported(await arranged(1000, 100), false))
  await report('hand over 1,000,000 copies by nodes', exported(await arranged(1000, 1000), false))
  await report('hand over 1,000,000 copies as instances', exported(await arranged(1000, 1000), true))
  console.log(
    [
      'request'.padEnd(62)
        + ['took', 'p50', 'p99', 'most'].map(text => text.padStart(10)).join('')
        + '   (of others beside it)',
      ...rows,
    ].join('\n'),
  )
}, 900_000)

it('ten readers and ten writers on one level', async () => {
  const seconds = Number(process.env.BENCH_SECONDS ?? 15)
  const lines: string[] = []
  for (const count of [111, 10_000]) {
    const level = await levelOf(count)
    const [plain] = await timed(async () =>
      JSON.stringify((await server.db.execute(sql`select * from placements where level_id = ${level}`)).rows),
    )
    const [opening, changing]: [number[], number[]] = [[], []]
    let bytes = 0
    const ends = Date.now() + seconds * 1000
    const reader = async () => {
      while (Date.now() < ends) {
        opening.push(
          (
            await timed(async () => {
              const response = await fetch(`${server.url}/api/levels/${level}`)
              bytes = (await response.arrayBuffer()).byteLength
            })
          )[0],
        )
      }
    }
    const writer = async () => {
      const own = make()
      let base = await save(level, 1, change([own]))
      while (Date.now() < ends) {
        const [took, revision] = await timed(() =>
          save(level, base, change([{ do: 'put', id: own.id, fields: { order: base } }])),
        )
        base = revision
        changing.push(took)
      }
    }
    await Promise.all([...Array.from({ length: 10 }, reader), ...Array.from({ length: 10 }, writer)])
    for (const [name, times] of [
      ['opening', opening],
      ['changing', changing],
    ] as const) {
      lines.push(
        `${count.toLocaleString('en').padStart(8)} ${name.padEnd(10)}${[0.5, 0.95, 0.99].map(share => ms(percentile(times, share)).padStart(10)).join('')}${String(times.length).padStart(9)}${(percentile(times, 0.5) / plain).toFixed(2).padStart(12)} x`,
      )
    }
    lines.push(
      `         ${(bytes / 1e6).toFixed(2)} MB of JSON; a plain select of the rows, as plain JSON, takes ${ms(plain)}`,
    )
  }
  console.log(
    [
      '   level           '
        + ['p50', 'p95', 'p99', 'requests'].map(text => text.padStart(9)).join(' ')
        + '   p50 to plain',
      ...lines,
    ].join('\n'),
  )
}, 300_000)

it('opening large levels', async () => {
  for (const count of [10_000, 100_000]) {
    const level = await levelOf(count)
    const [plain] = await timed(async () =>
      JSON.stringify((await server.db.execute(sql`select * from placements where level_id = ${level}`)).rows),
    )
    const { took, waited } = await beside(async () => (await fetch(`${server.url}/api/levels/${level}`)).arrayBuffer())
    const raw = await fetch(`${server.url}/api/levels/${level}`, { headers: { 'accept-encoding': 'identity' } })
    const plainBytes = (await raw.arrayBuffer()).byteLength
    console.log(
      `${count.toLocaleString('en')} placements: ${ms(took)} (${(took / plain).toFixed(2)} times a plain select as plain JSON), ${(plainBytes / 1e6).toFixed(1)} MB before compression; others waited at most ${ms(Math.max(...waited))}`,
    )
  }
}, 300_000)

it('opening large levels in the page', async () => {
  const browser = await chromium.launch({
    executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
    args: [
      '--no-sandbox',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--enable-unsafe-swiftshader',
    ],
  })
  try {
    // Crates of 1,100 triangles: beyond that a machine without a graphics card measures its drawing alone.
    for (const count of [111, 2_000]) {
      const level = await levelOf(count)
      const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, deviceScaleFactor: 0.5 })
      await page.goto(`${server.url}/levels/${level}`)
      await page.waitForFunction(() => document.querySelector('[data-test=stats]'), null, { timeout: 240_000 })
      const drawn = await page.evaluate(() => performance.now())
      const found = await page.evaluate(
        id =>
          performance
            .getEntriesByType('resource')
            .filter(({ name }) => name.endsWith(id))
            .map(entry => {
              const { startTime, responseStart, responseEnd, encodedBodySize, decodedBodySize } =
                entry as PerformanceResourceTiming
              return { startTime, responseStart, responseEnd, encodedBodySize, decodedBodySize }
            })[0]!,
        level,
      )
      console.log(
        `${count.toLocaleString('en').padStart(8)} placements: page ready to ask after ${ms(found.startTime)}, server answers in ${ms(found.responseStart - found.startTime)}, ${(found.encodedBodySize / 1e6).toFixed(2)} MB on the wire (${(found.decodedBodySize / 1e6).toFixed(1)} MB) arrive in ${ms(found.responseEnd - found.responseStart)}, read, indexed and drawn in ${ms(drawn - found.responseEnd)}; in all ${ms(drawn)}`,
      )
      await page.close()
    }
  } finally {
    await browser.close()
  }
}, 600_000)

it('handing over large levels in every format, and the memory of all processes meanwhile', async () => {
  const grid = id()
  const copies = await newLevel()
  await save(
    copies,
    0,
    change(
      [
        make({
          kind: 'arrangement',
          partId: null,
          name: 'Grid',
          own: { rule: { ...RULES.grid.first, counts: [1000, 1, 100] } },
        }),
      ].map(operation => ({ ...operation, id: grid })),
    ),
    change([make({ parentId: grid })]),
  )
  const [creating, placements] = await timed(() => levelOf(100_000))
  const rows = [`creating 100,000: ${ms(creating)}`]
  for (const [name, level, query] of [
    ['100,000 copies', copies, 'instanced=true'],
    ['100,000 placements', placements, ''],
  ] as const) {
    for (const [format, route] of Object.entries(HAND_OVER_ROUTES)) {
      let peak = 0
      const watch = setInterval(() => {
        peak = Math.max(peak, server.memory())
      }, 50)
      const [took, { status, bytes }] = await timed(async () => {
        const answer = await fetch(
          `${server.url}${ROUTES[route].path.replace(':id', level)}${format === 'glb' ? `?${query}` : ''}`,
        )
        return { status: answer.status, bytes: (await answer.arrayBuffer()).byteLength }
      })
      clearInterval(watch)
      rows.push(
        `${name.padEnd(20)}${format.padEnd(8)}${String(status).padStart(4)}${ms(took).padStart(10)}${(bytes / 1024 / 1024).toFixed(2).padStart(9)} MB, processes at most ${Math.round(peak / 1024 / 1024)} MB`,
      )
    }
  }
  console.log(rows.join('\n'))
}, 600_000)
