import { setTimeout as sleep } from 'node:timers/promises'
import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { startThrowawayPostgres } from '../../scripts/lib/postgres.mjs'
import { levels } from '../../server/db/schema'
import { change, freshId, newGroup } from '../api/support'
import type { TestServer } from '../server'
import { makeServer } from '../server'
import { check, hearing, newLevel, post, saveUntil, waitFor } from './saving'

// Servers and databases that are killed, cut off and put beside each other while several people save. What was
// acknowledged is there afterwards, once, and the journal replays to the rows.
const ROUNDS = process.env.TRIAL === 'long' ? 40 : 3

describe('a PostgreSQL of our own', () => {
  let postgres: Awaited<ReturnType<typeof startThrowawayPostgres>>
  let server: TestServer
  beforeAll(async () => {
    postgres = await startThrowawayPostgres()
    server = await makeServer({ database: postgres.url })
  })
  afterAll(async () => {
    await server.dispose()
    await postgres.stop()
  })

  it('that is killed between and during saves is started again, and nothing is lost or there twice', async () => {
    const levelId = await newLevel(server)
    let isOver = false
    const writers = Promise.all(
      [1, 2, 3].map(() =>
        saveUntil(
          () => server,
          levelId,
          () => isOver,
        ),
      ),
    )
    for (let round = 0; round < ROUNDS; round++) {
      await sleep(700 + (round % 5) * 130)
      const { pid } = postgres.server
      process.kill(pid, round % 2 ? 'SIGQUIT' : 'SIGKILL')
      await waitFor(async () => postgres.server.pid !== pid && (await fetch(`${server.url}/api/health`)).ok)
    }
    await sleep(800)
    isOver = true
    const acknowledged = (await writers).flat()
    expect(acknowledged.length).toBeGreaterThan(ROUNDS)
    await waitFor(() =>
      server.db.execute(sql`select 1`).then(
        () => true,
        () => false,
      ),
    )
    await check(server, levelId, acknowledged)
  }, 600_000)

  it('that is away is told from one that is busy, and is used again when it is back', async () => {
    const levelId = await newLevel(server)
    const { pid } = postgres.server
    process.kill(pid, 'SIGKILL')
    const health = await fetch(`${server.url}/api/health`)
    // Between the kill and the restart; on a fast machine it may be back already.
    if (!health.ok) expect(await health.json()).toMatchObject({ error: { code: 'database-away' } })
    await waitFor(async () => (await fetch(`${server.url}/api/health`)).ok)
    expect((await fetch(`${server.url}/api/levels/${levelId}`)).status).toBe(200)
  }, 60_000)
})

describe('connections', () => {
  let server: TestServer
  beforeAll(async () => {
    server = await makeServer()
  })
  afterAll(() => server.dispose())

  it('that are ended under readers and writers are given back, however many', async () => {
    const levelId = await newLevel(server)
    let isOver = false
    const writers = Promise.all(
      [1, 2].map(() =>
        saveUntil(
          () => server,
          levelId,
          () => isOver,
        ),
      ),
    )
    const statuses = new Set<number>()
    const readers = Promise.all(
      [1, 2, 3, 4].map(async () => {
        while (!isOver) statuses.add((await fetch(`${server.url}/api/levels/${levelId}`)).status)
      }),
    )
    // More often than the pool has connections: one that is lost each time would leave none.
    for (let round = 0; round < 12 * ROUNDS; round++) {
      await server.db.execute(
        sql`select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()`,
      )
      await sleep(60)
    }
    isOver = true
    const [acknowledged] = await Promise.all([writers, readers])
    expect([...statuses].filter(status => status !== 200 && status !== 503)).toEqual([])
    for (let i = 0; i < 20; i++) expect((await fetch(`${server.url}/api/levels/${levelId}`)).status).toBe(200)
    await check(server, levelId, acknowledged.flat())
  }, 300_000)

  it('waiting for one level leave others, and the question whether all is well, unharmed', async () => {
    const [busy, other] = [await newLevel(server), await newLevel(server)]
    const saves: Promise<Response>[] = []
    // Somebody holds the level for as long as it takes.
    await server.db.transaction(async tx => {
      await tx.execute(sql`select 1 from levels where id = ${busy} for update`)
      for (let i = 0; i < 15; i++)
        saves.push(post(server, `/api/levels/${busy}/changes`, { baseRevision: 0, changes: [change(newGroup().make)] }))
      await sleep(300)
      expect((await fetch(`${server.url}/api/health`)).status).toBe(200)
      expect(
        (await post(server, `/api/levels/${other}/changes`, { baseRevision: 0, changes: [change(newGroup().make)] }))
          .status,
      ).toBe(200)
      expect((await fetch(`${server.url}/api/levels/${busy}`)).status).toBe(200)
    })
    expect((await Promise.all(saves)).map(({ status }) => status)).toEqual(saves.map(() => 200))
  }, 60_000)
})

describe('two servers on one database', () => {
  it('take turns without losing anything, while one of them is killed again and again', async () => {
    const first = await makeServer()
    const second = await makeServer({ database: first.databaseUrl })
    try {
      const levelId = await newLevel(first)
      let isOver = false
      const pages = [hearing(first, levelId), hearing(second, levelId)]
      const pick = (i: number) => () => (Math.random() < 0.5 === (i % 2 === 0) ? first : second)
      const writers = Promise.all([0, 1, 2, 3].map(i => saveUntil(pick(i), levelId, () => isOver)))
      for (let round = 0; round < ROUNDS; round++) {
        await sleep(500)
        await second.end('SIGKILL')
        await second.start()
      }
      isOver = true
      const acknowledged = (await writers).flat()
      expect(acknowledged.length).toBeGreaterThan(20)
      await check(first, levelId, acknowledged)
      const [level] = await first.db.select().from(levels).where(eq(levels.id, levelId))
      expect(level!.placementCount).toBe(4)
      for (const page of pages) await waitFor(() => Promise.resolve(page.revision() === level!.revision))
      await Promise.all(pages.map(page => page.end()))
    } finally {
      await second.dispose()
      await first.dispose()
    }
  }, 300_000)

  it('take one part sent by six at once, to both, as one', async () => {
    const first = await makeServer()
    const second = await makeServer({ database: first.databaseUrl })
    try {
      const crate = ((await (await fetch(`${first.url}/api/kit`)).json()) as { parts: { meshHash: string }[] })
        .parts[0]!
      const glb = await (await fetch(`${first.url}/api/meshes/${crate.meshHash}`)).arrayBuffer()
      const id = freshId()
      const answers = await Promise.all(
        [first, second, first, second, first, second].map(({ url }) =>
          fetch(`${url}/api/parts?id=${id}&name=Six&kind=prop&inKit=true`, {
            method: 'POST',
            headers: { 'content-type': 'model/gltf-binary' },
            body: glb,
          }),
        ),
      )
      expect(answers.map(({ status }) => status)).toEqual([200, 200, 200, 200, 200, 200])
      // Duplicated beside a writer, a level is as it was at one moment.
      const levelId = await newLevel(first)
      let isOver = false
      const writer = saveUntil(
        () => first,
        levelId,
        () => isOver,
      )
      for (let i = 0; i < 10; i++) {
        const copy = await post(second, '/api/levels', { name: 'Copy', from: levelId })
        expect(copy.status).toBe(201)
        const summary = (await copy.json()) as { id: string; placementCount: number }
        expect(
          ((await (await fetch(`${second.url}/api/levels/${summary.id}`)).json()) as { placements: unknown[] })
            .placements,
        ).toHaveLength(summary.placementCount)
        expect((await fetch(`${second.url}/api/levels/${levelId}/export.glb`)).status).toBe(200)
      }
      isOver = true
      await writer
    } finally {
      await second.dispose()
      await first.dispose()
    }
  }, 120_000)
})
