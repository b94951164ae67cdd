import { cpSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import { v7 } from 'uuid'
import { expect, it } from 'vitest'
import { backSchema } from '../../core/api/schema'
import { isArrangement } from '../../core/arrange/arrangement'
import { changeSchema, operationSchema } from '../../core/level/schema'
import type { TestServer } from '../server'
import { lanternQuayKit } from '../../demo/kit'
import { useServer } from './support'

// A level as it was kept before what says which rule or shape something is was called its type. The sample was made
// with the application of that time: all rules and shapes, four changes in the journal, what takes them back, and a
// queue on a device.
const sample = JSON.parse(readFileSync('tests/samples/before-types.json', 'utf8')) as {
  levelId: string
  tables: Record<string, Record<string, unknown>[]>
  device: { databases: Record<string, Record<string, [string, { changes: unknown[] }][]>> }
}
const MIGRATIONS_THEN = 5

/** The database as that application left it. */
async function before(db: TestServer['db']): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'handy-grid-migrations-'))
  try {
    cpSync('server/db/migrations', folder, { recursive: true })
    const journal = JSON.parse(readFileSync(join(folder, 'meta/_journal.json'), 'utf8')) as { entries: unknown[] }
    writeFileSync(
      join(folder, 'meta/_journal.json'),
      JSON.stringify({ ...journal, entries: journal.entries.slice(0, MIGRATIONS_THEN) }),
    )
    await migrate(db, { migrationsFolder: folder })
  } finally {
    rmSync(folder, { recursive: true })
  }
  for (const { id, name } of lanternQuayKit()) {
    await db.execute(sql`insert into meshes (hash, glb) values (encode(sha256(${name}::bytea), 'hex'), '')`)
    await db.execute(
      sql`insert into parts (id, name, kind, tags, mesh_hash, min_x, min_y, min_z, max_x, max_y, max_z, triangles, position) values (${id}, ${name}, 'prop', '{}', encode(sha256(${name}::bytea), 'hex'), 0, 0, 0, 1, 1, 1, 12, 0)`,
    )
  }
  for (const [table, rows] of Object.entries(sample.tables)) {
    // Parents before what hangs below them.
    for (const row of rows.toSorted((a, b) => Number(a.parent_id !== null) - Number(b.parent_id !== null))) {
      await db.execute(
        sql`insert into ${sql.identifier(table)} select * from jsonb_populate_record(null::${sql.identifier(table)}, ${JSON.stringify(row)}::jsonb)`,
      )
    }
  }
}

const server = useServer({ before })

it('a level from before rules and shapes had types opens with all of them, and so does its journal', async () => {
  const { placements, blocks, layers, stations } = await server.level(sample.levelId)
  const types = placements.flatMap(({ own }) => (isArrangement(own) ? own.rule.type : []))
  // One change made the line a fan.
  expect(types.toSorted()).toEqual(['fan', 'fan', 'grid', 'mirror', 'path', 'ring'])
  expect(blocks.map(({ shape }) => shape.type).toSorted()).toEqual([
    'ball',
    'box',
    'cone',
    'cylinder',
    'ring',
    'slab',
    'steps',
    'tube',
    'wedge',
  ])
  expect([placements.length, layers.length, stations.length]).toEqual([sample.tables.placements!.length, 1, 1])
  const grid = placements.find(({ name }) => name === 'Kept grid')!.own
  expect(grid).toMatchObject({
    rule: { type: 'grid', counts: [4, 1, 3] },
    sources: { by: 'weight' },
    vary: { seed: 3 },
    exceptions: { '2,1,0': { move: [0, 1, 0] }, '0,0,0': { hidden: true } },
  })
  // What takes it back, from the journal's inverses.
  const back = backSchema.parse((await server.call('GET', `/api/levels/${sample.levelId}/back?to=1`)).json)
  expect(back.operations).toHaveLength(3)
  expect(JSON.stringify(back.operations)).toContain('"type":"line"')
  expect(JSON.stringify(await server.get().db.execute(sql`select operations, inverse from changes`))).not.toMatch(
    /"(rule|shape)":\s*"/,
  )
})

it('changes kept on a device from then are taken as they are', async () => {
  const [[, queue]] = sample.device.databases['handy-grid']!['waiting-changes']! as [[string, { changes: unknown[] }]]
  const changes = queue.changes.map(each => changeSchema.parse(each))
  expect(changes.map(({ label }) => label)).toEqual([
    'Change Kept ring',
    'Change the width of the box',
    'Position Y of Kept grid',
  ])
  // As they were sent then, by a page that is still open.
  const answer = await server.call('POST', `/api/levels/${sample.levelId}/changes`, {
    baseRevision: 4,
    changes: queue.changes,
  })
  expect(answer.status).toBe(200)
  const { placements, blocks } = await server.level(sample.levelId)
  expect(placements.find(({ name }) => name === 'Kept ring')!.own).toMatchObject({ rule: { type: 'ring', count: 9 } })
  expect(blocks.find(({ shape }) => shape.type === 'box')!.shape).toMatchObject({ width: 3 })
})

it('what a window could undo then can still be undone', async () => {
  const steps = sample.device.databases['handy-grid-steps']!['steps'] as unknown as [
    string,
    { label: string; operations: unknown[] },
  ][]
  const operations = steps.toReversed().flatMap(([, step]) => step.operations.map(each => operationSchema.parse(each)))
  expect(operations.length).toBeGreaterThanOrEqual(4)
  expect(JSON.stringify(operations)).not.toMatch(/"(rule|shape)":\s*"/)
  const answer = await server.call('POST', `/api/levels/${sample.levelId}/changes`, {
    baseRevision: 7,
    changes: [{ id: v7(), label: 'Undo all of it', author: 'Guest 1', operations }],
  })
  expect(answer.status).toBe(200)
})
