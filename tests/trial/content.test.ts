import { setTimeout as sleep } from 'node:timers/promises'
import { expect, it } from 'vitest'
import { HAND_OVER_ROUTES, ROUTES } from '../../core/api/routes'
import { apiErrorSchema, checkAnswerSchema, importAnswerSchema, levelSchema } from '../../core/api/schema'
import type { Operation, Placement } from '../../core/level/schema'
import { demoId } from '../../demo/kit'
import { change, freshId, newGroup, useServer } from '../api/support'
import { anyLevelFile, anyTable, costly, GLBS, Seeded } from './content'

// What comes in as files and costly rules, made from a seed. Whatever it is: it is answered, taken in or refused with
// where it is wrong; a dry run says the same as a real one; others are served meanwhile; and what was taken in can be
// opened, saved to, checked and handed over in all formats. TRIAL=long makes many times more, and looks at times and
// memory as well; SEED says which.
const isLong = process.env.TRIAL === 'long'
const ROUNDS = Number(process.env.TRIAL_ROUNDS ?? (isLong ? 40 : 1))
const FIRST = Number(process.env.SEED ?? 20261351)
/**
 * Milliseconds: of an answer, of a file that is made or a level that is checked, of what others ask meanwhile; bytes of
 * all processes of a server.
 */
const [SLOWEST, SLOWEST_FILE, OTHERS, MEMORY] = [10_000, 40_000, 300, 6 * 1024 ** 3]

const server = useServer()

const failures: string[] = []
let peak = 0

/** Asks, while somebody else asks for small things. */
async function watched<T>(what: string, work: () => Promise<T>, slowest = SLOWEST): Promise<T> {
  let isOver = false
  const others = (async () => {
    while (!isOver) {
      const began = Date.now()
      const answer = await fetch(`${server.get().url}/api/levels`)
      await answer.arrayBuffer()
      if (answer.status !== 200) failures.push(`${what}: others were answered ${answer.status}`)
      if (isLong && Date.now() - began > OTHERS) failures.push(`${what}: others waited ${Date.now() - began} ms`)
      peak = Math.max(peak, server.get().memory())
      await sleep(100)
    }
  })()
  const began = Date.now()
  try {
    return await work()
  } finally {
    if (isLong && Date.now() - began > slowest) failures.push(`${what}: took ${Date.now() - began} ms`)
    isOver = true
    await others
  }
}

async function bring(what: string, bytes: Uint8Array, dry: boolean): Promise<{ status: number; text: string }> {
  return watched(`${what}, ${dry ? 'dry' : 'really'}`, async () => {
    const response = await fetch(`${server.get().url}/api/import?dry=${dry}&name=Trial`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: bytes as BodyInit,
    })
    return { status: response.status, text: await response.text() }
  })
}

const refusal = (text: string) => apiErrorSchema.parse(JSON.parse(text)).error

/** Brings a file in, dry and really. @returns the level it has become, if it was taken */
async function bringTwice(what: string, bytes: Uint8Array): Promise<string | null> {
  const [dry, real] = [await bring(what, bytes, true), await bring(what, bytes, false)]
  for (const { status, text } of [dry, real])
    if (status >= 500 || (status !== 200 && !refusal(text).field))
      failures.push(`${what}: ${status} ${text.slice(0, 300)}`)
  const wrongRows = dry.status === 200 ? importAnswerSchema.parse(JSON.parse(dry.text)).errorCount : 0
  if (wrongRows === 0 && dry.status !== real.status)
    failures.push(
      `${what}: dry ${dry.status} ${dry.text.slice(0, 200)}, really ${real.status} ${real.text.slice(0, 200)}`,
    )
  return real.status === 200 ? importAnswerSchema.parse(JSON.parse(real.text)).levelId : null
}

/** Opens a level, saves to it, has it checked and handed over in all formats. */
async function liveWith(what: string, id: string): Promise<void> {
  const opened = await watched(`${what}, opened`, () => server.call('GET', `/api/levels/${id}`))
  const read = levelSchema.safeParse(opened.json)
  if (!read.success)
    return void failures.push(`${what}: cannot be opened: ${opened.status} ${read.error.message.slice(0, 300)}`)
  const saved = await watched(`${what}, saved to`, () =>
    server.call('POST', `/api/levels/${id}/changes`, {
      baseRevision: read.data.revision,
      changes: [change(newGroup().make)],
    }),
  )
  if (saved.status !== 200) failures.push(`${what}: cannot be saved to: ${saved.status} ${saved.text.slice(0, 300)}`)
  const checked = await watched(
    `${what}, checked`,
    () => server.call('GET', `/api/levels/${id}/check`),
    2 * SLOWEST_FILE,
  )
  if (checked.status === 200 ? !checkAnswerSchema.safeParse(checked.json).success : checked.status >= 500)
    failures.push(`${what}: cannot be checked: ${checked.status} ${checked.text.slice(0, 300)}`)
  // All of them take their time; one of each way of going through a level tells as well.
  const routes = isLong
    ? Object.values(HAND_OVER_ROUTES)
    : [HAND_OVER_ROUTES.level, HAND_OVER_ROUTES.glb, HAND_OVER_ROUTES.bill]
  for (const route of routes) {
    const answer = await watched(
      `${what}, ${route}`,
      async () => {
        const response = await fetch(server.get().url + ROUTES[route].path.replace(':id', id))
        return { status: response.status, bytes: new Uint8Array(await response.arrayBuffer()) }
      },
      SLOWEST_FILE,
    )
    // Too much for a format is an answer as well.
    if (answer.status !== 200 && answer.status !== 422)
      failures.push(`${what}: ${route} ${answer.status} ${new TextDecoder().decode(answer.bytes.subarray(0, 300))}`)
  }
}

async function newLevel(placements: readonly Placement[]): Promise<string> {
  const { id } = await server.newLevel()
  const operations = placements.map(({ id: each, ...fields }): Operation => ({ do: 'put', id: each, fields }))
  const saved = await server.call('POST', `/api/levels/${id}/changes`, {
    baseRevision: 0,
    changes: [change(...operations)],
  })
  expect([saved.status, saved.text.slice(0, 300)]).toEqual([200, expect.anything()])
  return id
}

it('files that claim much, nest deeply or do not hang together are taken or refused, and what is taken can be lived with', async () => {
  let [taken, refused] = [0, 0]
  for (let round = 0; round < ROUNDS; round++) {
    const makers = {
      ...GLBS,
      anyLevelFile,
      'another level file': anyLevelFile,
      'a third level file': anyLevelFile,
      anyTable,
      'another table': anyTable,
    }
    for (const [name, make] of Object.entries(makers)) {
      const seed = FIRST + round * 100 + name.length
      const what = `${name} of ${seed}`
      const level = await bringTwice(what, await make(new Seeded(seed)))
      if (level) {
        taken++
        await liveWith(what, level)
      } else refused++
      if (!isLong) expect(failures).toEqual([])
    }
  }
  expect(failures).toEqual([])
  expect(Math.min(taken, refused)).toBeGreaterThan(0)
})

it('rules that cost are checked and handed over, or it is said why not', async () => {
  for (let round = 0; round < ROUNDS; round++) {
    const seed = FIRST + round
    await liveWith(`costly ${seed}`, await newLevel(costly(new Seeded(seed), demoId('part/Crate'))))
    expect(failures).toEqual([])
  }
})

it('a part that is opened and grows beyond what a part may be stays as it was', async () => {
  const partId = freshId()
  const crate = freshId()
  const { json, status } = await server.call('POST', '/api/parts/made', {
    id: partId,
    name: 'Grown',
    kind: 'prop',
    tags: [],
    inKit: true,
    kit: 'Trial',
    operations: [
      {
        do: 'put',
        id: crate,
        fields: {
          parentId: null,
          order: 0,
          name: 'Crate',
          kind: 'part',
          partId: demoId('part/Crate'),
          blockId: null,
          translation: [0, 0, 0],
          rotation: [0, 0, 0, 1],
          scale: [1, 1, 1],
          pivot: [0, 0, 0],
          hidden: false,
          locked: false,
          layerId: null,
          own: {},
        },
      },
    ],
  })
  expect(status).toBe(200)
  const workshop = (await server.call('POST', `/api/parts/${partId}/workshop`, {})).json as {
    levelId: string
    revision: number
  }
  const seed = new Seeded(FIRST)
  for (let round = 0, revision = workshop.revision; round < (isLong ? 20 : 4); round++) {
    const size = seed.of([1e9, 1e8, 2e9 / 3, 1, 1e-9])
    const saved = await server.call('POST', `/api/levels/${workshop.levelId}/changes`, {
      baseRevision: revision,
      changes: [change({ do: 'put', id: crate, fields: { scale: [size, size, 1], translation: [size, 0, 0] } })],
    })
    if (saved.status === 200) revision = (saved.json as { revision: number }).revision
    const made = await watched(`made anew of ${size}`, () => server.call('POST', `/api/parts/${partId}/remake`, {}))
    if (made.status !== 200 && made.status !== 422)
      failures.push(`made anew of ${size}: ${made.status} ${made.text.slice(0, 300)}`)
  }
  expect(json).toMatchObject({ id: partId })
  await liveWith(
    'with what grew',
    await newLevel([
      {
        id: freshId(),
        parentId: null,
        order: 0,
        name: 'Grown',
        kind: 'part',
        partId,
        blockId: null,
        translation: [0, 0, 0],
        rotation: [0, 0, 0, 1],
        scale: [1, 1, 1],
        pivot: [0, 0, 0],
        hidden: false,
        locked: false,
        layerId: null,
        own: {},
      },
    ]),
  )
  expect(failures).toEqual([])
  if (isLong) expect(peak).toBeLessThan(MEMORY)
  if (isLong) console.warn(`memory of all processes at most ${Math.round(peak / 1024 / 1024)} MB`)
})
