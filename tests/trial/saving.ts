import { once } from 'node:events'
import { setTimeout as sleep } from 'node:timers/promises'
import { asc, eq } from 'drizzle-orm'
import { expect } from 'vitest'
import { WebSocket } from 'ws'
import { LIVE_PATH } from '../../core/api/live'
import { applyChange } from '../../core/level/change'
import { Level } from '../../core/level/level'
import type { Change, JournalEntry, Placement } from '../../core/level/schema'
import { rowToPlacement } from '../../server/db/rows'
import { changes, placements } from '../../server/db/schema'
import { change, newGroup, put } from '../api/support'
import type { TestServer } from '../server'

export const post = (server: TestServer, path: string, body: unknown) =>
  fetch(server.url + path, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(body),
  })

export async function newLevel(server: TestServer): Promise<string> {
  return ((await (await post(server, '/api/levels', { name: 'Trial' })).json()) as { id: string }).id
}

/** Saves as the page does: in order, the same again until it is answered. @returns the ids acknowledged */
export async function saveUntil(servers: () => TestServer, levelId: string, isOver: () => boolean): Promise<string[]> {
  const acknowledged: string[] = []
  const { placement, make } = newGroup()
  let next: Change = change(make)
  for (let base = 0; !isOver(); ) {
    try {
      const response = await post(servers(), `/api/levels/${levelId}/changes`, { baseRevision: base, changes: [next] })
      if (response.ok) {
        base = ((await response.json()) as { revision: number }).revision
        acknowledged.push(next.id)
        next = change(put(placement.id, { translation: [acknowledged.length, 0, 0] }))
        continue
      }
    } catch {
      // Nobody answered; the same change goes again.
    }
    await sleep(50)
  }
  return acknowledged
}

/** The journal has each acknowledged change once, and replays to the rows. */
export async function check(server: TestServer, levelId: string, acknowledged: readonly string[]): Promise<void> {
  const journal = await server.db
    .select()
    .from(changes)
    .where(eq(changes.levelId, levelId))
    .orderBy(asc(changes.revision))
  expect(journal.map(({ revision }) => revision)).toEqual(journal.map((_, i) => i + 1))
  const ids = journal.map(({ id }) => id)
  expect(new Set(ids).size).toBe(ids.length)
  expect(acknowledged.filter(id => !ids.includes(id))).toEqual([])
  const document = new Level()
  for (const { operations } of journal as JournalEntry[]) applyChange(document, operations)
  const rows = (await server.db.select().from(placements).where(eq(placements.levelId, levelId))).map(rowToPlacement)
  const byId = (all: Iterable<Placement>) => [...all].sort((a, b) => (a.id < b.id ? -1 : 1))
  expect(byId(rows)).toEqual(byId(document.placements()))
}

/** A page that hears how far a level is, and comes back whenever its connection is cut. */
export function hearing(server: TestServer, levelId: string): { revision: () => number; end: () => Promise<void> } {
  let [revision, isOver] = [-1, false]
  let socket: WebSocket
  const open = () => {
    if (isOver) return
    socket = new WebSocket(server.url.replace('http', 'ws') + LIVE_PATH.replace(':id', levelId))
    socket.on('message', data => {
      const said = JSON.parse(String(data)) as { revision?: number }
      revision = said.revision ?? revision
    })
    socket.on('error', () => {})
    socket.on('close', () => setTimeout(open, 100))
  }
  open()
  return {
    revision: () => revision,
    end: async () => {
      isOver = true
      if (socket.readyState === WebSocket.CLOSED) return
      const closed = once(socket, 'close')
      socket.terminate()
      await closed
    },
  }
}

/** Asks again and again, for a minute. @throws Error if it never is so */
export async function waitFor(ask: () => Promise<boolean>): Promise<void> {
  for (let tries = 0; !(await ask().catch(() => false)); tries++) {
    if (tries > 600) throw new Error('it did not come back')
    await sleep(100)
  }
}
