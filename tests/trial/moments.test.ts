import { execFileSync } from 'node:child_process'
import { mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { eq } from 'drizzle-orm'
import { unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { HAND_OVER_ROUTES, ROUTES } from '../../core/api/routes'
import { importAnswerSchema, kitSchema } from '../../core/api/schema'
import { createPlacement } from '../../core/level/create'
import { startThrowawayPostgres } from '../../scripts/lib/postgres.mjs'
import { changes, levels } from '../../server/db/schema'
import { change, freshId, newGroup, put, useServer } from '../api/support'
import type { TestServer } from '../server'
import { makeServer } from '../server'
import { levelFile } from './content'

// What happens while something else happens: files are of one moment, whoever changes what meanwhile; whoever goes away
// leaves others as they are; a server whose database or disk is away says so.
const ROUNDS = process.env.TRIAL === 'long' ? 30 : 1

const server = useServer()

const importAt = (url: string, bytes: Uint8Array, query = '') =>
  fetch(`${url}/api/import${query}`, {
    method: 'POST',
    headers: { 'content-type': 'application/zip' },
    body: bytes as BodyInit,
  })
const codeOf = async (response: Response) => [
  response.status,
  response.ok ? '' : ((await response.json()) as { error: { code: string } }).error.code,
]

/** Saves to a level again and again until it is told to stop. */
function writers(levelId: string, count: number): () => Promise<void> {
  let isOver = false
  const all = Promise.all(
    Array.from({ length: count }, async () => {
      while (!isOver) {
        const { revision } = await server.level(levelId)
        await server.call('POST', `/api/levels/${levelId}/changes`, {
          baseRevision: revision,
          changes: [change(newGroup().make)],
        })
      }
    }),
  )
  return async () => {
    isOver = true
    await all
  }
}

describe('a level file with its journal', () => {
  it('is of one moment, however many save meanwhile; what comes of it can be saved to', async () => {
    const { id } = await server.newLevel()
    const stop = writers(id, 3)
    try {
      for (let round = 0; round < ROUNDS * 6; round++) {
        const file = new Uint8Array(
          await (await fetch(`${server.get().url}/api/levels/${id}/export.handygrid?journal=true`)).arrayBuffer(),
        )
        const files = unzipSync(file)
        const text = (name: string) => new TextDecoder().decode(files[name])
        const [level, journal] = [
          JSON.parse(text('level.json')) as { revision: number },
          JSON.parse(text('journal.json')) as { revision: number }[],
        ]
        expect(journal.map(({ revision }) => revision)).toEqual(Array.from({ length: level.revision }, (_, i) => i + 1))
        const answer = importAnswerSchema.parse(await (await importAt(server.get().url, file)).json())
        const saved = await server.call('POST', `/api/levels/${answer.levelId}/changes`, {
          baseRevision: answer.revision,
          changes: [change(newGroup().make)],
        })
        expect([saved.status, saved.json]).toEqual([200, expect.objectContaining({ revision: level.revision + 1 })])
      }
    } finally {
      await stop()
    }
  })

  it('that goes on after its level is taken without what came after, and that is said; one that is in no order is refused with the place', async () => {
    const entry = (revision: number) => ({
      ...change(newGroup().make),
      revision,
      madeAt: '2026-11-01T10:00:00.000Z',
      inverse: null,
    })
    const [one, two, three] = [entry(1), entry(2), entry(3)]
    const answer = importAnswerSchema.parse(
      await (await importAt(server.get().url, levelFile({ revision: 2 }, [one, two, three]))).json(),
    )
    expect([answer.revision, answer.notes.join(' ')]).toEqual([2, expect.stringContaining('1 is left out')])
    expect((await server.save(answer.levelId!, 2, change(newGroup().make))).revision).toBe(3)
    for (const [journal, where] of [
      [[two, one], '/1/revision'],
      [[one, { ...two, id: one.id }], '/1/id'],
      [[one, { ...two, madeAt: '0000-01-01T00:00:00Z' }], '/1/madeAt'],
      [[{ ...one, revision: 0 }], '/0/revision'],
    ] as const) {
      const response = await importAt(server.get().url, levelFile({ revision: 2 }, journal))
      expect([response.status, await response.text()]).toEqual([415, expect.stringContaining(where)])
    }
    const high = await importAt(server.get().url, levelFile({ revision: 2147483647 }))
    expect([high.status, await high.text()]).toEqual([415, expect.stringContaining('revision')])
  })

  it('that could not be saved to before is mended when a server starts', async () => {
    const [ahead, high] = [(await server.newLevel()).id, (await server.newLevel()).id]
    const { placement, make } = newGroup()
    for (const id of [ahead, high]) await server.save(id, 0, change(make), change(put(placement.id, { name: 'Two' })))
    await server
      .get()
      .db.insert(changes)
      .values(
        [3, 4].map(revision => ({
          levelId: ahead,
          revision,
          id: freshId(),
          label: 'Never here',
          author: 'Test',
          operations: [],
        })),
      )
    await server.get().db.update(levels).set({ revision: 2147483647 }).where(eq(levels.id, high))
    await server.get().end('SIGTERM')
    await server.get().start()
    for (const id of [ahead, high]) {
      expect(await server.level(id)).toMatchObject({ revision: 2, placements: [{ name: 'Two' }] })
      expect((await server.save(id, 2, change(newGroup().make))).revision).toBe(3)
    }
  })
})

describe('two servers', () => {
  it('hand over in all formats on one while parts are made anew on the other', async () => {
    const second = await makeServer({ database: server.get().databaseUrl })
    try {
      const { id } = await server.newLevel()
      const kit = kitSchema.parse((await server.call('GET', '/api/kit')).json)
      const part = kit.parts.find(({ name }) => name === 'Crate')!
      await server.save(
        id,
        0,
        change(
          ...[0, 1, 2].map(order => {
            const { id: crate, ...fields } = createPlacement({
              id: freshId(),
              name: 'Crate',
              kind: 'part',
              partId: part.id,
              order,
            })
            return put(crate, fields)
          }),
        ),
      )
      const workshop = (await (
        await fetch(`${second.url}/api/parts/${part.id}/workshop`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: '{}',
        })
      ).json()) as { levelId: string }
      const [inside] = (await server.level(workshop.levelId)).placements
      let isOver = false
      const remaking = (async () => {
        for (let round = 1; !isOver; round++) {
          const { revision } = await server.level(workshop.levelId)
          await server.save(
            workshop.levelId,
            revision,
            change(put(inside!.id, { scale: [1 + (round % 7) / 10, 1, 1] })),
          )
          expect(
            (
              await fetch(`${second.url}/api/parts/${part.id}/remake`, {
                method: 'POST',
                headers: { 'content-type': 'application/json' },
                body: '{}',
              })
            ).status,
          ).toBe(200)
        }
      })()
      try {
        for (let round = 0; round < ROUNDS * 3; round++) {
          for (const route of Object.values(HAND_OVER_ROUTES)) {
            const response = await fetch(server.get().url + ROUTES[route].path.replace(':id', id))
            const bytes = await response.arrayBuffer()
            expect([route, response.status, response.ok ? '' : new TextDecoder().decode(bytes)]).toEqual([
              route,
              200,
              '',
            ])
          }
        }
      } finally {
        isOver = true
        await remaking
      }
    } finally {
      await second.dispose()
    }
  })

  it('take one mesh in while its part is deleted', async () => {
    const kit = kitSchema.parse((await server.call('GET', '/api/kit')).json)
    const glb = await (await fetch(`${server.get().url}/api/meshes/${kit.parts[1]!.meshHash}`)).arrayBuffer()
    // A mesh of its own, that nothing else shows.
    const text = Buffer.from(glb).toString('latin1')
    const own = Buffer.from(
      text.replace(/"generator":"[^"]{6}/, match => `${match.slice(0, -6)}Trials`),
      'latin1',
    )
    const statuses = new Set<string>()
    for (let round = 0; round < ROUNDS * 20; round++) {
      const [first, second] = [freshId(), freshId()]
      const take = (id: string) =>
        fetch(`${server.get().url}/api/parts?id=${id}&name=Trial&kind=prop&inKit=true`, {
          method: 'POST',
          headers: { 'content-type': 'model/gltf-binary' },
          body: own,
        })
      await take(first)
      const answers = await Promise.all([
        take(second),
        fetch(`${server.get().url}/api/parts/${first}`, { method: 'DELETE' }),
      ])
      for (const { status } of answers) statuses.add(String(status))
      expect(
        (
          await fetch(
            `${server.get().url}/api/meshes/${kitSchema.parse((await server.call('GET', '/api/kit')).json).parts.find(({ id }) => id === second)!.meshHash}`,
          )
        ).status,
      ).toBe(200)
      await fetch(`${server.get().url}/api/parts/${second}`, { method: 'DELETE' })
    }
    expect([...statuses].toSorted()).toEqual(['200', '204'])
  })
})

describe('whoever goes away', () => {
  it('before they are answered leaves others as they are, and no files', async () => {
    const { id } = await server.newLevel('demo')
    const paths = [
      `/api/levels/${id}/check`,
      ...Object.values(HAND_OVER_ROUTES).map(route => ROUTES[route].path.replace(':id', id)),
    ]
    for (let round = 0; round < ROUNDS * 10; round++) {
      const gone = new AbortController()
      const asked = fetch(server.get().url + paths[round % paths.length]!, { signal: gone.signal }).then(response =>
        response.arrayBuffer(),
      )
      setTimeout(() => gone.abort(), 20 + ((round * 37) % 200))
      await asked.catch(() => {})
    }
    expect((await server.call('GET', paths[0]!)).status).toBe(200)
    expect((await fetch(server.get().url + paths[1]!)).status).toBe(200)
    const own = () =>
      readdirSync(tmpdir()).filter(name => name.startsWith(`handy-grid-hand-over-${server.get().pid()}-`))
    for (let tries = 0; own().length > 0 && tries < 100; tries++) await sleep(100)
    expect(own()).toEqual([])
  })
})

describe('a server without its database', () => {
  it('says so of all work, also what is done in other processes, and goes on when it is back', async () => {
    const postgres = await startThrowawayPostgres()
    let alone: TestServer | undefined
    try {
      alone = await makeServer({ database: postgres.urlOf('postgres') })
      const {
        levels: [level],
      } = (await (await fetch(`${alone.url}/api/levels`)).json()) as { levels: { id: string }[] }
      const url = alone.url
      const ask = async () => [
        await codeOf(await importAt(url, levelFile({}))),
        await codeOf(await fetch(`${url}/api/levels/${level!.id}/check`)),
        await codeOf(await fetch(`${url}/api/levels/${level!.id}/export.glb`)),
        await codeOf(
          await fetch(`${url}/api/levels/${level!.id}/changes`, {
            method: 'POST',
            headers: { 'content-type': 'application/json' },
            body: JSON.stringify({
              baseRevision: 0,
              changes: [change(...Array.from({ length: 600 }, () => newGroup().make))],
            }),
          }),
        ),
      ]
      expect((await ask()).map(([status]) => status)).toEqual([200, 200, 200, 200])
      await postgres.stop()
      expect(await ask()).toEqual(Array.from({ length: 4 }, () => [503, 'database-away']))
    } finally {
      await alone?.end('SIGKILL')
      await postgres.stop()
    }
  })
})

/** A folder with little room, where the machine lets one be made. */
function smallDisk(): { folder: string; remove: () => void } | null {
  const folder = mkdtempSync(join(tmpdir(), 'handy-grid-small-'))
  const remove = () => rmSync(folder, { recursive: true, force: true })
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=128k', 'tmpfs', folder], { stdio: 'ignore' })
    return {
      folder,
      remove: () => {
        execFileSync('umount', ['-l', folder], { stdio: 'ignore' })
        remove()
      },
    }
  } catch {
    remove()
    return null
  }
}

describe('a server whose disk is full', () => {
  it('says so, and does what needs no room', async ({ skip }) => {
    const disk = smallDisk()
    if (!disk) return skip('no small disk can be made here')
    const small = await makeServer({ env: { TMPDIR: disk.folder } })
    try {
      const { id } = (await (
        await fetch(`${small.url}/api/levels`, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: '{"name":"Full","from":"demo"}',
        })
      ).json()) as { id: string }
      expect(await codeOf(await fetch(`${small.url}/api/levels/${id}/export.glb`))).toEqual([503, 'disk-full'])
      expect((await fetch(`${small.url}/api/levels/${id}/check`)).status).toBe(200)
      expect((await fetch(`${small.url}/api/levels`)).status).toBe(200)
    } finally {
      await small.dispose()
      disk.remove()
    }
  })
})
