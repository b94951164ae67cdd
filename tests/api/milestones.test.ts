import { eq, sql } from 'drizzle-orm'
import { create } from 'jsondiffpatch'
import { describe, expect, it } from 'vitest'
import type { Comparison } from '../../core/compare/table'
import { levelSummarySchema } from '../../core/api/schema'
import type { Milestone } from '../../core/api/milestones'
import { milestoneSchema } from '../../core/api/milestones'
import { unpackLevel } from '../../core/level/unpack'
import { levels, milestones, parts } from '../../server/db/schema'
import { demoId } from '../../demo/kit'
import { testPicture } from '../textured'
import { change, freshId, newGroup, put, useServer } from './support'

const server = useServer()

const make = async (level: string, more: Record<string, unknown> = {}): Promise<Milestone> => {
  const { status, json, text } = await server.call('POST', `/api/levels/${level}/milestones`, {
    id: freshId(),
    name: 'Stalls stand',
    by: 'Ada',
    ...more,
  })
  expect(status, text).toBe(201)
  return milestoneSchema.parse(json)
}
const listed = async (level: string): Promise<Milestone[]> => {
  const { json } = await server.call('GET', `/api/levels/${level}/milestones`)
  return (json as { milestones: unknown[] }).milestones.map(each => milestoneSchema.parse(each))
}
const unpacked = async (id: string) => {
  const answer = await fetch(`${server.get().url}/api/milestones/${id}/packed`)
  expect(answer.status).toBe(200)
  return unpackLevel(new Uint8Array(await answer.arrayBuffer()))
}
const byId = <T extends { id: string }>(all: readonly T[]) => all.toSorted((a, b) => (a.id < b.id ? -1 : 1))

describe('milestones', () => {
  it('have the rows of the level as the journal played to that revision, also named later', async () => {
    const { id } = await server.newLevel('demo')
    const rows: { placements: unknown[]; relations: unknown[] }[] = []
    const remember = async () => {
      const { placements, relations } = await server.level(id)
      rows.push({ placements: byId(placements), relations: byId(relations) })
    }
    await remember()
    const group = newGroup()
    await server.save(id, 0, change(group.make))
    await remember()
    const first = (await server.level(id)).placements.find(({ parentId }) => parentId === null)!
    await server.save(id, 1, change(put(first.id, { translation: [1 / 3, 0.1 + 0.2, -7] })))
    await remember()
    const now = await make(id)
    await server.save(id, 2, change({ do: 'remove', id: group.placement.id }))
    const before = await make(id, { name: 'As it was', about: 'Before the crates came.', revision: 1 })
    const began = await make(id, { name: 'How it began', revision: 0 })
    for (const [milestone, revision] of [
      [now, 2],
      [before, 1],
      [began, 0],
    ] as const) {
      const { placements, records, unreadable } = await unpacked(milestone.id)
      expect(unreadable).toEqual([])
      expect({ placements: byId(placements), relations: byId(records.relations) }).toEqual(rows[revision])
    }
    const all = await listed(id)
    expect(all.map(({ name, revision, by, made }) => [name, revision, by, made])).toEqual([
      ['Stalls stand', 2, 'Ada', 'by hand'],
      ['As it was', 1, 'Ada', 'by hand'],
      ['How it began', 0, 'Ada', 'by hand'],
    ])
    // What was written down does not need the journal any more.
    expect(all.map(({ placementCount }) => placementCount)).toEqual(
      rows.map(({ placements }) => placements.length).reverse(),
    )
  })

  it('are named otherwise, deleted and brought back, made once when asked twice, and by two at once', async () => {
    const { id } = await server.newLevel()
    const [one, two] = await Promise.all([make(id, { name: 'One' }), make(id, { name: 'Two' })])
    expect((await listed(id)).map(({ name }) => name).toSorted()).toEqual(['One', 'Two'])
    // It may have been written down meanwhile, which counts what is in it.
    const same: Milestone = { ...one, placementCount: expect.toBeOneOf([null, 0]) }
    expect(await make(id, { id: one.id, name: 'One' })).toEqual(same)
    expect(
      await server.error('POST', `/api/levels/${id}/milestones`, { id: one.id, name: 'Three', by: 'Bo' }),
    ).toMatchObject({
      status: 409,
      code: 'id-taken',
    })
    await server.call('PATCH', `/api/milestones/${one.id}`, { name: 'First', about: 'Said later' })
    expect(await listed(id)).toContainEqual({ ...same, name: 'First', about: 'Said later' })
    expect((await server.call('DELETE', `/api/milestones/${two.id}`)).status).toBe(204)
    expect((await listed(id)).map(({ name }) => name)).toEqual(['First'])
    expect((await server.call('GET', `/api/milestones/${two.id}/packed`)).status).toBe(404)
    expect((await server.call('PATCH', `/api/milestones/${two.id}`, { deleted: false })).status).toBe(200)
    expect((await listed(id)).map(({ name }) => name).toSorted()).toEqual(['First', 'Two'])
  })

  it('refuse names with markup and of thousands of letters, states that are not there, and change nothing', async () => {
    const { id } = await server.newLevel()
    const path = `/api/levels/${id}/milestones`
    const ask = (more: Record<string, unknown>) =>
      server.error('POST', path, { id: freshId(), name: 'A', by: 'Ada', ...more })
    expect(await ask({ name: '<b>Bold</b>' })).toMatchObject({ status: 422, field: 'name' })
    expect(await ask({ name: 'a'.repeat(5000) })).toMatchObject({ status: 422, field: 'name' })
    expect(await ask({ about: 'a'.repeat(5000) })).toMatchObject({ status: 422, field: 'about' })
    expect(await ask({ revision: 7 })).toMatchObject({ status: 422, field: 'revision' })
    expect(await server.error('GET', `/api/milestones/${freshId()}/packed`)).toMatchObject({ status: 404 })
    expect(await listed(id)).toEqual([])
  })

  it('are made by themselves before the first change of a day and before a large one', async () => {
    const { id } = await server.newLevel('demo')
    const large = () => change(...Array.from({ length: 300 }, () => newGroup().make))
    await server.save(id, 0, change(newGroup().make))
    expect(await listed(id)).toEqual([])
    const picture = await testPicture('image/png', 9)
    await server.call('PUT', `/api/levels/${id}/picture?revision=1`, picture.bytes)
    await server.save(id, 1, { ...large(), label: 'Paste 300 things' })
    expect(await listed(id)).toMatchObject([
      { name: 'Before “Paste 300 things”', made: 'large', revision: 1, by: 'Test', hasPicture: true },
    ])
    // Another right after it is not worth one more.
    await server.save(id, 2, large())
    expect(await listed(id)).toHaveLength(1)
    const yesterday = new Date(Date.now() - 86_400_000)
    await server.get().db.update(levels).set({ changedAt: yesterday }).where(eq(levels.id, id))
    await server.save(id, 3, change(newGroup().make))
    const [last] = await listed(id)
    expect(last).toMatchObject({ made: 'day', revision: 3, hasPicture: false })
    expect(last!.name).toMatch(/^Before \w+day/)
    expect((await unpacked(last!.id)).placements).toHaveLength((await server.level(id)).placements.length - 1)
  })

  it('with a disk that is full nothing is half done: it is said, and goes on once there is room', async () => {
    const { id } = await server.newLevel('demo')
    const { db } = server.get()
    // As the database says it.
    await db.execute(sql`
      create function full_disk() returns trigger language plpgsql as $$
      begin raise exception 'could not extend file: No space left on device' using errcode = '53100'; end $$`)
    await db.execute(
      sql`create trigger full_disk before insert on milestones for each row execute function full_disk()`,
    )
    const large = change(...Array.from({ length: 300 }, () => newGroup().make))
    const variant = { name: 'Another try', from: id, variant: true, author: 'Ada' }
    const all = (await server.call('GET', '/api/levels')).json
    const full = { status: 503, code: 'disk-full' }
    expect(
      await server.error('POST', `/api/levels/${id}/milestones`, { id: freshId(), name: 'A', by: 'Ada' }),
    ).toMatchObject(full)
    expect(
      await server.error('POST', `/api/levels/${id}/changes`, { baseRevision: 0, changes: [large] }),
    ).toMatchObject(full)
    expect(await server.error('POST', '/api/levels', variant)).toMatchObject(full)
    expect((await server.call('GET', '/api/levels')).json).toEqual(all)
    expect(await listed(id)).toEqual([])
    await db.execute(sql`drop trigger full_disk on milestones`)
    await server.save(id, 0, large)
    await make(id)
    expect(await listed(id)).toHaveLength(2)
    expect((await server.call('POST', '/api/levels', variant)).status).toBe(201)
  })
})

describe('variants', () => {
  it('begin at a milestone, are levels of their own, and stay when their level is gone', async () => {
    const { id } = await server.newLevel()
    const [a, b] = [newGroup(), newGroup()]
    await server.save(id, 0, change(a.make))
    const milestone = await make(id)
    await server.save(id, 1, change(b.make))
    const from = async (body: Record<string, unknown>) =>
      levelSummarySchema.parse(
        (await server.call('POST', '/api/levels', { name: 'Another try', from: id, ...body })).json,
      )
    const variant = await from({ at: milestone.id, variant: true })
    expect(variant).toMatchObject({ variantOf: id, beganAt: milestone.id, revision: 0, placementCount: 1 })
    expect((await server.level(variant.id)).placements).toEqual([a.placement])
    const second = await from({ variant: true })
    expect(second.placementCount).toBe(2)
    const [began] = await listed(id)
    expect(began).toMatchObject({ id: second.beganAt, revision: 2 })
    const own = await from({ at: milestone.id })
    expect(own).toMatchObject({ variantOf: null, beganAt: null, placementCount: 1 })
    await server.get().db.delete(levels).where(eq(levels.id, id))
    expect(await server.level(variant.id)).toMatchObject({ variantOf: null, beganAt: null })
    const { json } = await server.call('GET', `/api/levels/${variant.id}/milestones`)
    expect(json).toEqual({ milestones: [] })
  })

  it('of what is no level, or of another level’s milestone, are refused', async () => {
    const [{ id }, other] = [await server.newLevel(), await server.newLevel()]
    const milestone = await make(other.id)
    expect(await server.error('POST', '/api/levels', { name: 'V', from: id, at: milestone.id })).toMatchObject({
      status: 404,
    })
    expect(await server.error('POST', '/api/levels', { name: 'V', from: 'demo', variant: true })).toMatchObject({
      status: 422,
    })
  })

  it('with things whose part is gone have groups in their places', async () => {
    const { id } = await server.newLevel()
    const copied = await server.call('POST', `/api/parts/${demoId('part/Crate')}/copy`, {
      id: freshId(),
      name: 'My crate',
      inKit: true,
    })
    const part = (copied.json as { id: string }).id
    const crate = newGroup({ kind: 'part', partId: part, translation: [1, 2, 3] })
    await server.save(id, 0, change(crate.make))
    const milestone = await make(id)
    await unpacked(milestone.id)
    await server.save(id, 1, change({ do: 'remove', id: crate.placement.id }))
    expect((await server.call('DELETE', `/api/parts/${part}`)).status).toBe(204)
    expect(await server.get().db.select().from(parts).where(eq(parts.id, part))).toEqual([])
    const { json } = await server.call('POST', '/api/levels', { name: 'V', from: id, at: milestone.id, variant: true })
    const { placements } = await server.level(levelSummarySchema.parse(json).id)
    expect(placements).toEqual([{ ...crate.placement, kind: 'group', partId: null }])
    await server.get().db.delete(milestones).where(eq(milestones.id, milestone.id))
  })
})

describe('comparing by the API', () => {
  it('says what a plain walk over both levels’ rows says, and the same as a table', async () => {
    const { id } = await server.newLevel('demo')
    const milestone = await make(id)
    const before = await server.level(id)
    const [moved, gone] = before.placements.filter(
      ({ id: of, kind }) =>
        kind === 'part'
        && !before.placements.some(({ parentId }) => parentId === of)
        && !before.relations.some(({ held, holders }) => held === of || holders.some(({ on }) => on === of)),
    )
    const added = newGroup({ name: '=SUM(A1)' })
    await server.save(
      id,
      0,
      change(added.make, put(moved!.id, { translation: [0, 3, 4] }), { do: 'remove', id: gone!.id }),
    )
    const after = await server.level(id)
    const { json } = await server.call('GET', `/api/levels/${id}/compare?milestone=${milestone.id}`)
    const found = json as Comparison
    const rows = (all: typeof before.placements) => Object.fromEntries(all.map(each => [each.id, each]))
    const delta = create().diff(rows(before.placements), rows(after.placements)) as Record<string, unknown>
    expect(found.differences.map(each => each.id).toSorted()).toEqual(Object.keys(delta).toSorted())
    expect(found.counts).toMatchObject({ added: 1, gone: 1, moved: 1, turned: 0 })
    const way = found.differences.find(each => each.id === moved!.id)!
    const [x, y, z] = moved!.translation
    expect(way.moved).toBeCloseTo(Math.hypot(x, y - 3, z - 4), 9)
    expect(way.values).toEqual([{ path: 'translation', from: moved!.translation, to: [0, 3, 4] }])
    const csv = await server.call('GET', `/api/levels/${id}/compare?milestone=${milestone.id}&as=csv`)
    expect(csv.headers.get('content-type')).toMatch('text/csv')
    expect(csv.text.trim().split('\r\n')).toHaveLength(4)
    expect(csv.text).toContain("'=SUM(A1)")
    const same = await server.call('GET', `/api/levels/${id}/compare?level=${id}`)
    expect((same.json as Comparison).differences).toEqual([])
    expect(await server.error('GET', `/api/levels/${id}/compare`)).toMatchObject({ status: 422 })
    expect(await server.error('GET', `/api/levels/${id}/compare?level=${freshId()}`)).toMatchObject({ status: 404 })
  })
})
