import { setTimeout as sleep } from 'node:timers/promises'
import { eq } from 'drizzle-orm'
import { describe, expect, it } from 'vitest'
import type { Change } from '../../core/level/schema'
import { changes, placements } from '../../server/db/schema'
import { change, newGroup, useServer } from './support'

const server = useServer()

/** Sends as the page does: the same change again until it is answered. */
async function sendUntilAnswered(levelId: string, base: () => number, sent: Change): Promise<number> {
  for (;;) {
    try {
      return (await server.save(levelId, base(), sent)).revision
    } catch {
      await sleep(50)
    }
  }
}

describe('a server killed with SIGKILL', () => {
  it('between saves loses nothing and applies nothing twice', async () => {
    const { id } = await server.newLevel()
    const first = change(newGroup().make)
    await server.save(id, 0, first)
    await server.get().end('SIGKILL')
    await server.get().start()
    // The page never saw the answer and sends again, with a further change behind.
    const answer = await server.save(id, 0, first, change(newGroup().make))
    expect(answer.revision).toBe(2)
    expect((await server.level(id)).placements).toHaveLength(2)
  })

  it('again and again while saving loses nothing and applies nothing twice', async () => {
    const { id } = await server.newLevel()
    const sent = Array.from({ length: 60 }, () => change(...Array.from({ length: 40 }, () => newGroup().make)))
    let revision = 0
    let sending = true
    const sender = (async () => {
      for (const entry of sent) revision = await sendUntilAnswered(id, () => revision, entry)
      sending = false
    })()
    let kills = 0
    while (sending) {
      // Longer each time, so that a slow machine gets through as well.
      await sleep(60 + ((kills * 37) % 90) + kills * 10)
      if (!sending) break
      await server.get().end('SIGKILL')
      kills++
      await server.get().start()
    }
    await sender
    const { db } = server.get()
    const journal = await db.select().from(changes).where(eq(changes.levelId, id)).orderBy(changes.revision)
    expect(journal.map(entry => entry.id)).toEqual(sent.map(entry => entry.id))
    expect(journal.map(entry => entry.revision)).toEqual(sent.map((_, i) => i + 1))
    const rows = await db.select({ id: placements.id }).from(placements).where(eq(placements.levelId, id))
    expect(new Set(rows.map(row => row.id))).toEqual(
      new Set(sent.flatMap(entry => entry.operations.map(operation => operation.id))),
    )
    expect((await server.level(id)).placementCount).toBe(60 * 40)
    // Otherwise nothing was tested.
    expect(kills).toBeGreaterThan(1)
  })
})
