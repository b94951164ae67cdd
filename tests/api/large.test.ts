import { sql } from 'drizzle-orm'
import { describe, expect, it } from 'vitest'
import { RULES } from '../../core/arrange/rules'
import { createPlacement } from '../../core/level/create'
import type { Operation } from '../../core/level/schema'
import { demoId } from '../../demo/kit'
import { readKeptDays, thinJournal } from '../../server/services/thin-journal'
import { change, freshId, newGroup, put, useServer } from './support'

// Requests as large as they may be, of the kinds that once took minutes or the whole server. How long they take now is
// measured by the benchmarks; here it is checked that they are done, and that others are answered meanwhile.
const server = useServer()

/** Asks for other things until the work is done. @returns how many answers came before it was */
async function besides(work: Promise<unknown>): Promise<number> {
  let isDone = false
  const done = work.finally(() => (isDone = true))
  let answers = 0
  while (!isDone) {
    expect((await server.call('GET', '/api/levels')).status).toBe(200)
    answers++
  }
  await done
  return answers
}

const crate = (fields: Parameters<typeof put>[1] = {}): Operation => {
  const { id, ...rest } = createPlacement({
    id: freshId(),
    name: 'Crate',
    kind: 'part',
    partId: demoId('part/Crate'),
    ...fields,
  })
  return put(id, rest)
}

describe('a change', () => {
  it('of 30,000 placements is applied while others are answered', async () => {
    const { id } = await server.newLevel()
    const answers = await besides(
      server.save(id, 0, change(...Array.from({ length: 30_000 }, (_, i) => crate({ order: i })))),
    )
    expect(answers).toBeGreaterThan(20)
    expect((await server.level(id)).placements).toHaveLength(30_000)
  })

  it('that hangs 10,000 things from each other is applied, and the level opens and is handed over', async () => {
    const { id } = await server.newLevel()
    const chain = Array.from({ length: 10_000 }, () => newGroup().placement)
    await server.save(
      id,
      0,
      change(
        ...chain.map(({ id: own, ...fields }, i) => put(own, { ...fields, parentId: i > 0 ? chain[i - 1]!.id : null })),
      ),
    )
    // A small change at its end looks upwards all the way.
    await server.save(id, 1, change(put(chain.at(-1)!.id, { name: 'The last' })))
    expect((await server.level(id)).placements).toHaveLength(10_000)
    expect((await fetch(`${server.get().url}/api/levels/${id}/export.glb`)).status).toBe(200)
    expect(
      await server.error('POST', `/api/levels/${id}/changes`, {
        baseRevision: 2,
        changes: [
          change(
            ...Array.from({ length: 2 }, () => newGroup()).map(({ placement: { id: own, ...fields } }, i, all) =>
              put(own, { ...fields, parentId: i > 0 ? all[0]!.placement.id : chain.at(-1)!.id }),
            ),
          ),
        ],
      }),
    ).toMatchObject({ status: 422, code: 'too-deep' })
  })

  it('of 5,000 layers, and of 50,000 operations on one record, is applied', async () => {
    const { id } = await server.newLevel()
    await server.save(
      id,
      0,
      change(
        ...Array.from(
          { length: 5000 },
          (_, i): Operation => ({
            do: 'put-layer',
            id: freshId(),
            fields: { name: `Layer ${i}`, color: '#b9a58b', visible: true, locked: false, order: i },
          }),
        ),
      ),
    )
    const { placement, make } = newGroup()
    await server.save(id, 1, change(make, ...Array.from({ length: 50_000 }, (_, i) => put(placement.id, { order: i }))))
    const level = await server.level(id)
    expect([level.layers.length, level.placements[0]!.order]).toEqual([5000, 49_999])
  })

  it('made long ago is merged with a journal of many operations', async () => {
    const { id } = await server.newLevel()
    await server.save(
      id,
      0,
      ...Array.from({ length: 10 }, () => change(...Array.from({ length: 500 }, () => newGroup().make))),
    )
    const answer = await server.save(id, 0, change(newGroup().make))
    expect([answer.revision, answer.others.length]).toEqual([11, 10])
  })
})

describe('a level', () => {
  it('of a million copies is handed over as instances, refused by nodes with what to do instead, and keeps nobody waiting', async () => {
    const { id } = await server.newLevel()
    const own = { rule: { ...RULES.grid.first, counts: [1000, 1, 1000] as [number, number, number] } }
    const {
      placement: { id: top, ...fields },
    } = newGroup({ kind: 'arrangement', own })
    await server.save(id, 0, change(put(top, fields), crate({ parentId: top })))
    expect(await server.error('GET', `/api/levels/${id}/export.glb`)).toMatchObject({
      status: 422,
      code: 'too-much',
      message: expect.stringContaining('instances'),
    })
    let bytes = 0
    const answers = await besides(
      fetch(`${server.get().url}/api/levels/${id}/export.glb?instanced=true`).then(async response => {
        bytes = (await response.arrayBuffer()).byteLength
      }),
    )
    expect(bytes).toBeGreaterThan(40_000_000)
    expect(answers).toBeGreaterThan(10)
  })
})

describe('what was done', () => {
  it('is listed, and taken back to any change', async () => {
    const { id } = await server.newLevel()
    const [first, second] = [newGroup(), newGroup()]
    await server.save(id, 0, { ...change(first.make), label: 'Make the first', author: 'Ada' })
    await server.save(id, 1, change(second.make, put(first.placement.id, { name: 'Renamed' })))
    await server.save(id, 2, change({ do: 'remove', id: second.placement.id }))
    const { changes } = (await server.call('GET', `/api/levels/${id}/changes`)).json as {
      changes: { revision: number; label: string; author: string; canBeTakenBack: boolean }[]
    }
    expect(changes.map(({ revision }) => revision)).toEqual([3, 2, 1])
    expect(changes[2]).toMatchObject({ label: 'Make the first', author: 'Ada', canBeTakenBack: true })
    const back = (await server.call('GET', `/api/levels/${id}/back?to=1`)).json as {
      revision: number
      operations: Operation[]
    }
    expect(back.revision).toBe(3)
    const there = new Set((await server.level(id)).placements.map(placement => placement.id))
    await server.save(
      id,
      3,
      change(...back.operations.filter(operation => operation.do !== 'remove' || there.has(operation.id))),
    )
    expect((await server.level(id)).placements).toEqual([first.placement])
    expect(await server.error('GET', `/api/levels/${id}/back?to=-1`)).toMatchObject({ status: 422, field: 'to' })
    expect((await server.call('GET', `/api/levels/${id}/changes?before=2&limit=1`)).json).toMatchObject({
      changes: [{ revision: 1 }],
    })
  })
})

/** Rows of placements that the database has looked at, by its own counts: in the table and in its indices. */
async function rowsRead(): Promise<number> {
  let before = -1
  for (;;) {
    const { rows } = await server.get().db.execute<{ read: string }>(
      sql`select (select seq_tup_read from pg_stat_user_tables where relname = 'placements')
        + (select sum(idx_tup_read) from pg_stat_user_indexes where relname = 'placements') as read`,
    )
    const read = Number(rows[0]!.read)
    if (read === before) return read
    before = read
    // Each connection tells what it has counted once a second.
    await new Promise(resolve => setTimeout(resolve, 1500))
  }
}

describe('a level that the database has not counted yet', () => {
  it('is changed by its keys: what is read grows with the change alone', async () => {
    const { db } = server.get()
    const { id: counted } = await server.newLevel()
    await server.save(counted, 0, change(...Array.from({ length: 5000 }, () => crate())))
    await db.execute(sql`analyze placements`)
    const { id } = await server.newLevel()
    const things = Array.from({ length: 5000 }, () => crate())
    await server.save(id, 0, change(...things))
    const before = await rowsRead()
    const some = things.slice(0, 2000)
    await server.save(id, 1, change(...some.map(thing => put(thing.id, { translation: [1, 2, 3] }))))
    await server.save(id, 2, change(...some.map((thing): Operation => ({ do: 'remove', id: thing.id }))))
    expect((await rowsRead()) - before).toBeLessThan(20 * some.length)
    expect((await server.level(id)).placements).toHaveLength(3000)
  })
})

describe('a journal that is thinned', () => {
  it('keeps its list, says how far back one can go, and takes changes as before', async () => {
    const { db } = server.get()
    const { id } = await server.newLevel()
    const thing = crate()
    await server.save(id, 0, change(thing))
    for (let i = 1; i < 5; i++) await server.save(id, i, change(put(thing.id, { order: i })))
    await db.execute(
      sql`update changes set made_at = now() - interval '40 days' where level_id = ${id} and revision <= 3`,
    )
    expect(await thinJournal(db, 30)).toBe(3)
    expect(await thinJournal(db, 30)).toBe(0)
    const { changes } = (await server.call('GET', `/api/levels/${id}/changes?limit=10`)).json as {
      changes: { revision: number; canBeTakenBack: boolean }[]
    }
    expect(changes.map(entry => entry.canBeTakenBack)).toEqual([true, true, false, false, false])
    expect((await server.call('GET', `/api/levels/${id}/back?to=3`)).status).toBe(200)
    expect((await server.call('GET', `/api/levels/${id}/back?to=2`)).status).toBe(422)
    await server.save(id, 5, change(put(thing.id, { name: 'Still' })))
    expect((await server.level(id)).placements[0]).toMatchObject({ name: 'Still', order: 4 })
  })

  it('is kept for good unless a number of days is set', () => {
    expect(readKeptDays({})).toBeNull()
    expect(readKeptDays({ HANDY_GRID_KEEP_DAYS: '30' })).toBe(30)
    for (const days of ['0', 'many', '-1', '1e9'])
      expect(() => readKeptDays({ HANDY_GRID_KEEP_DAYS: days })).toThrow('HANDY_GRID_KEEP_DAYS')
  })
})
