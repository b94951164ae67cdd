import { readdirSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { sql } from 'drizzle-orm'
import { expect, it } from 'vitest'
import { HAND_OVER_ROUTES, ROUTES } from '../../core/api/routes'
import { change, newGroup, put, useServer } from '../api/support'
import { anyLevelFile, GLBS, Seeded } from './content'

// Half an hour of all that a server does, in the long trial alone: after it is warm nothing of it grows, neither
// memory, nor open files, nor folders, nor connections.
const isLong = process.env.TRIAL === 'long'
const MINUTES = Number(process.env.TRIAL_LEAK_MINUTES ?? 30)
/** The share of the time after which a server is warm, and by how much it may be above what it took then. */
const [WARM, GROWTH] = [0.4, 1.15]

const server = useServer()

type Taken = { memory: number; files: number; folders: number; connections: number }

async function taken(): Promise<Taken> {
  const pid = server.get().pid()
  const {
    rows: [row],
  } = await server.get().db.execute<{
    count: string
  }>(sql`select count(*) as count from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()`)
  return {
    memory: Number(/^VmRSS:\s+(\d+) kB/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024,
    files: readdirSync(`/proc/${pid}/fd`).length,
    folders: readdirSync(tmpdir()).filter(name => name.startsWith(`handy-grid-hand-over-${pid}-`)).length,
    connections: Number(row!.count),
  }
}

it.skipIf(!isLong)(
  'a server takes no more after half an hour than when it was warm',
  async () => {
    const ends = Date.now() + MINUTES * 60_000
    const { id } = await server.newLevel('demo')
    const { placement, make } = newGroup()
    await server.save(id, 0, change(make))
    const figures: Taken[] = []
    for (let round = 0; Date.now() < ends; round++) {
      const { revision } = await server.level(id)
      await server.save(id, revision, change(put(placement.id, { translation: [round % 100, 0, 0] })))
      await server.call('GET', `/api/levels/${id}/check`)
      for (const route of Object.values(HAND_OVER_ROUTES))
        await (await fetch(server.get().url + ROUTES[route].path.replace(':id', id))).arrayBuffer()
      const seed = new Seeded(round + 1)
      for (const bytes of [anyLevelFile(seed), await GLBS.claims!(seed), await GLBS.strangeExtras!(seed)]) {
        const answer = await fetch(`${server.get().url}/api/import?dry=true`, {
          method: 'POST',
          headers: { 'content-type': 'application/octet-stream' },
          body: bytes as BodyInit,
        })
        await answer.arrayBuffer()
      }
      const gone = new AbortController()
      const left = fetch(`${server.get().url}/api/levels/${id}/check`, { signal: gone.signal }).catch(() => {})
      gone.abort()
      await left
      figures.push(await taken())
    }
    const median = (of: keyof Taken, from: number, to: number) =>
      figures
        .slice(Math.floor(figures.length * from), Math.ceil(figures.length * to))
        .map(each => each[of])
        .sort((a, b) => a - b)
        .at(Math.floor((figures.length * (to - from)) / 2))!
    const say = (from: number, to: number) => ({
      memory: Math.round(median('memory', from, to)),
      files: median('files', from, to),
      folders: median('folders', from, to),
      connections: median('connections', from, to),
    })
    const [warm, end] = [say(WARM, WARM + 0.2), say(0.8, 1)]
    console.warn(`after ${figures.length} rounds: warm ${JSON.stringify(warm)}, at the end ${JSON.stringify(end)}`)
    expect(end.memory).toBeLessThan(warm.memory * GROWTH)
    expect(end.files).toBeLessThanOrEqual(warm.files + 5)
    expect(end.folders).toBe(0)
    expect(end.connections).toBeLessThanOrEqual(warm.connections + 3)
  },
  (MINUTES + 10) * 60_000,
)
