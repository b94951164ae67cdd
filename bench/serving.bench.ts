import { setTimeout as sleep } from 'node:timers/promises'
import type { Browser } from '@playwright/test'
import { sql } from 'drizzle-orm'
import { afterAll, beforeAll, it } from 'vitest'
import { HAND_OVER_ROUTES, ROUTES } from '../core/api/routes'
import { RULES } from '../core/arrange/rules'
import { createPlacement } from '../core/level/create'
import type { Change, Operation, Placement } from '../core/level/schema'
import { demoId } from '../demo/kit'
import type { TestServer } from '../tests/server'
import { makeServer } from '../tests/server'
import { launchBrowser, orbit } from './in-page'
import { reportCompared, reportGrowth } from './report'

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
  const rows: { what: string; took: number; waited: number[] }[] = []
  const report = async (what: string, work: () => Promise<unknown>) => {
    rows.push({ what, ...(await beside(work)) })
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
    await response.arrayBuffer()
  }
  await report('hand over 100,000 copies by nodes', exported(await arranged(1000, 100), false))
  await report('hand over 1,000,000 copies by nodes', exported(await arranged(1000, 1000), false))
  await report('hand over 1,000,000 copies as instances', exported(await arranged(1000, 1000), true))
  reportCompared({
    topic: 'Serving',
    title: 'Requests as large as they may be',
    about: 'From the asking to the answer, on the built server.',
    unit: 'ms',
    rows: rows.slice(1).map(({ what, took }) => ({ what, value: took })),
  })
  reportCompared({
    topic: 'Serving',
    title: 'What others wait meanwhile',
    about: 'The list of levels, asked for every few milliseconds beside each: 99 of 100 answers came within.',
    unit: 'ms',
    rows: rows.map(({ what, waited }) => ({ what, value: percentile(waited, 0.99) })),
  })
})

it('ten readers and ten writers on one level', async () => {
  const seconds = Number(process.env.BENCH_SECONDS ?? 15)
  const rows: { what: string; value: number; against: number }[] = []
  for (const count of [111, 10_000]) {
    const level = await levelOf(count)
    const [plain] = await timed(async () =>
      JSON.stringify((await server.db.execute(sql`select * from placements where level_id = ${level}`)).rows),
    )
    const [opening, changing]: [number[], number[]] = [[], []]
    const ends = Date.now() + seconds * 1000
    const reader = async () => {
      while (Date.now() < ends) {
        opening.push(
          (
            await timed(async () => {
              await (await fetch(`${server.url}/api/levels/${level}`)).arrayBuffer()
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
    ] as const)
      for (const [share, said] of [
        [0.5, 'median'],
        [0.95, '95 of 100'],
      ] as const)
        rows.push({
          what: `${count.toLocaleString('en')}: ${name}, ${said}`,
          value: percentile(times, share),
          against: plain,
        })
  }
  reportCompared({
    topic: 'Serving',
    title: 'Ten readers and ten writers on one level',
    about:
      'All at once and without a pause, with the database on the same machine; of levels of 111 and 10,000 placements.',
    unit: 'ms',
    reference: 'a plain select of the rows as JSON, by one',
    rows,
  })
})

/** A grid of a million crates, as copies. */
async function copiesLevel(): Promise<string> {
  const level = await newLevel()
  const grid = id()
  const rule = { ...RULES.grid.first, counts: [1000, 1, 1000] as [number, number, number] }
  const top = { ...make({ kind: 'arrangement', partId: null, name: 'Grid', own: { rule } }), id: grid }
  await save(level, 0, change([top]), change([make({ parentId: grid })]))
  return level
}

const OPENED = ['the server answers', 'the level is there', 'the first picture', 'all of the picture']
const ORBITED = ['a frame of an orbit, median', 'a frame of an orbit, 95 of 100']

/** Opens a level in a page of its own. @returns milliseconds, as the two lists above have them */
async function look(browser: Browser, level: string): Promise<number[]> {
  const [answered] = await timed(async () => (await fetch(`${server.url}/api/levels/${level}/packed`)).arrayBuffer())
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' })
  const since = performance.now()
  await page.goto(`${server.url}/levels/${level}`)
  await page.waitForFunction(() => window.handyGrid?.level(), null, { timeout: 240_000 })
  const there = performance.now() - since
  await page.waitForFunction(() => document.querySelector('[data-test=stats]'), null, { timeout: 240_000 })
  const first = performance.now() - since
  await page.evaluate(() => window.handyGrid!.rested())
  const whole = performance.now() - since
  const times = await orbit(page)
  await page.close()
  return [answered, there, first, whole, percentile(times, 0.5), percentile(times, 0.95)]
}

/** Lantern posts among 2,000 crates, by night. @returns milliseconds of a frame of an orbit: median, 95 of 100 */
async function lookByNight(browser: Browser, lamps: number): Promise<number[]> {
  const level = await newLevel()
  const side = Math.ceil(Math.sqrt(lamps))
  const at = (i: number, wide: number, step: number) =>
    [(i % wide) * step, 0, Math.floor(i / wide) * step] as [number, number, number]
  const posts = Array.from({ length: lamps }, (_, i) =>
    make({ name: 'Lantern post', partId: demoId('part/Lantern post'), translation: at(i, side, 6) }),
  )
  const crates = Array.from({ length: 2000 }, (_, i) => make({ translation: at(i, 45, 3) }))
  await save(level, 0, change([...posts, ...crates]))
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' })
  await page.goto(`${server.url}/levels/${level}`)
  await page.getByRole('button', { name: 'Cameras' }).first().click()
  await page.getByRole('button', { name: 'Lights', exact: true }).click()
  await page.getByRole('button', { name: 'Night', exact: true }).click()
  await page.evaluate(() => window.handyGrid!.rested())
  const times = await orbit(page)
  await page.close()
  return [percentile(times, 0.5), percentile(times, 0.95)]
}

it('opening large levels in the page, and looking around in them', async () => {
  const sizes = [1000, 10_000, 100_000]
  const browser = await launchBrowser()
  try {
    const bySize: number[][] = []
    for (const count of sizes) bySize.push(await look(browser, await levelOf(count)))
    const copies = await look(browser, await copiesLevel())
    const about = 'Crates of 1,100 triangles, a metre apart, in a window of 1280x800, drawn in software.'
    reportGrowth({
      topic: 'Opening and looking',
      title: 'Opening a level and looking around',
      about: `${about} A frame goes from a move of the pointer until it is drawn.`,
      unit: 'ms',
      of: 'placements',
      sizes,
      rows: [...OPENED, ...ORBITED].map((what, i) => ({ what, values: bySize.map(times => times[i]!) })),
    })
    reportCompared({
      topic: 'Opening and looking',
      title: 'The same with a million copies',
      about: 'One arrangement, all of whose copies are shown: 1.1 thousand million triangles.',
      unit: 'ms',
      rows: [...OPENED, ...ORBITED].map((what, i) => ({ what, value: copies[i]! })),
    })
    const lamps = [20, 1000]
    const byNight: number[][] = []
    for (const count of lamps) byNight.push(await lookByNight(browser, count))
    reportGrowth({
      topic: 'Opening and looking',
      title: 'Looking around by night',
      about: 'Lantern posts among 2,000 crates; every lamp lights what is near it.',
      unit: 'ms',
      of: 'lamps',
      sizes: lamps,
      rows: ORBITED.map((what, i) => ({ what, values: byNight.map(times => times[i]!) })),
    })
  } finally {
    await browser.close()
  }
})

it('handing over large levels in every format, and the memory of all processes meanwhile', async () => {
  const copies = await copiesLevel()
  const [creating, placements] = await timed(() => levelOf(100_000))
  const [times, memory]: { what: string; value: number }[][] = [[], []]
  times!.push({ what: '100,000 placements: saved in one request', value: creating })
  for (const [name, level, query] of [
    ['1,000,000 copies', copies, 'instanced=true'],
    ['100,000 placements', placements, ''],
  ] as const) {
    for (const [format, route] of Object.entries(HAND_OVER_ROUTES)) {
      let peak = 0
      const watch = setInterval(() => {
        peak = Math.max(peak, server.memory())
      }, 50)
      const [took, isGiven] = await timed(async () => {
        const answer = await fetch(
          `${server.url}${ROUTES[route].path.replace(':id', level)}${format === 'glb' ? `?${query}` : ''}`,
        )
        await answer.arrayBuffer()
        return answer.ok
      })
      clearInterval(watch)
      const what = `${name}: ${format}${isGiven ? '' : ' (refused)'}`
      times!.push({ what, value: took })
      memory!.push({ what, value: Math.round(peak / 1024 / 1024) })
    }
  }
  const about = 'On the built server, until the last byte is there.'
  reportCompared({
    topic: 'Bringing in and handing over',
    title: 'Handing over large levels',
    about,
    unit: 'ms',
    rows: times!,
  })
  reportCompared({
    topic: 'Bringing in and handing over',
    title: 'Memory while large levels are handed over',
    about: 'Of all processes of the server together, at most.',
    unit: 'MB',
    rows: memory!,
  })
})
