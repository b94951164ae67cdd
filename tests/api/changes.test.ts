import { cameraOwn, markerOwn } from '../../core/level/create'
import { and, eq } from 'drizzle-orm'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { conflictSchema, kitSchema } from '../../core/api/schema'
import { applyChange } from '../../core/level/change'
import { Level } from '../../core/level/level'
import { changes, levels, placements } from '../../server/db/schema'
import { anyQuat, anyScale } from '../support'
import { change, freshId, newGroup, put, useServer } from './support'

const server = useServer()
const { error, newLevel, save } = server

const rowsOf = (levelId: string) => server.get().db.select().from(placements).where(eq(placements.levelId, levelId))
const journalOf = (levelId: string) => server.get().db.select().from(changes).where(eq(changes.levelId, levelId))

describe('saving changes', () => {
  it('keeps every number to the last bit', async () => {
    const { id } = await newLevel()
    const { placement, make } = newGroup()
    let revision = (await save(id, 0, change(make))).revision
    const anyDouble = fc.double({ min: -1e9, max: 1e9, noNaN: true })
    await fc.assert(
      fc.asyncProperty(
        fc.tuple(anyDouble, anyDouble, anyDouble),
        anyQuat,
        anyScale,
        fc.tuple(anyDouble, anyDouble, anyDouble),
        anyDouble,
        async (translation, rotation, scale, pivot, order) => {
          const fields = { translation, rotation, scale, pivot, order }
          revision = (await save(id, revision, change(put(placement.id, fields)))).revision
          // JSON has no -0, so a zero comes back as 0.
          expect((await server.level(id)).placements[0]).toEqual(
            JSON.parse(JSON.stringify({ ...placement, ...fields })),
          )
        },
      ),
      { numRuns: 60 },
    )
  })

  it('does in the database what the core does in memory', async () => {
    const demo = await newLevel('demo')
    const before = await server.level(demo.id)
    const document = new Level(before.placements)
    const stalls = before.placements.find(placement => placement.name === 'Stalls')!
    const goods = before.placements.find(placement => placement.name === 'Goods')!
    const { placement, make } = newGroup({ parentId: goods.id })
    const sent = change(
      make,
      ...document.children(goods.id).map(id => put(id, { parentId: placement.id })),
      ...document
        .subtree(stalls.id)
        .toReversed()
        .map(id => ({ do: 'remove' as const, id })),
      put(goods.id, { name: 'All goods', hidden: true }),
    )
    await save(demo.id, 0, sent)
    applyChange(document, sent.operations)
    const after = await server.level(demo.id)
    const byId = (list: { id: string }[]) => [...list].sort((a, b) => (a.id < b.id ? -1 : 1))
    expect(byId(after.placements)).toEqual(byId([...document.placements()]))
    expect(after.placementCount).toBe(document.size)
    expect(await rowsOf(demo.id)).toHaveLength(document.size)
  })

  it('answers a change sent again with its first place and does nothing', async () => {
    const { id } = await newLevel()
    const first = change(newGroup().make)
    const second = change(newGroup().make)
    await save(id, 0, first)
    const again = await save(id, 0, first, second)
    expect(again).toMatchObject({
      revision: 2,
      applied: [
        { id: first.id, revision: 1 },
        { id: second.id, revision: 2 },
      ],
      others: [],
    })
    expect(await rowsOf(id)).toHaveLength(2)
    expect(await journalOf(id)).toHaveLength(2)
  })

  it('takes the same change once, also twice in one request and in ten requests at a time', async () => {
    const { id } = await newLevel()
    const once = change(newGroup().make)
    expect((await save(id, 0, once, once)).revision).toBe(1)
    const racing = change(newGroup().make)
    const answers = await Promise.all(Array.from({ length: 10 }, () => save(id, 1, racing)))
    expect(answers.map(answer => answer.revision)).toEqual(Array.from({ length: 10 }, () => 2))
    expect(await journalOf(id)).toHaveLength(2)
  })

  it('merges with what others did to other things, and tells it', async () => {
    const { id } = await newLevel()
    const [a, b] = [newGroup(), newGroup()]
    await save(id, 0, change(a.make), change(b.make))
    const theirs = change(put(a.placement.id, { name: 'Theirs' }))
    await save(id, 2, theirs)
    const answer = await save(id, 2, change(put(b.placement.id, { name: 'Ours' })))
    expect(answer.others).toEqual([{ ...theirs, revision: 3 }])
    expect((await server.level(id)).placements.map(placement => placement.name).sort()).toEqual(['Ours', 'Theirs'])
  })

  it('answers 409 with what others did to the same thing, and applies none of the request', async () => {
    const { id } = await newLevel()
    const [a, b] = [newGroup(), newGroup()]
    await save(id, 0, change(a.make), change(b.make))
    const theirs = change(put(a.placement.id, { name: 'Theirs' }))
    // The answer to this one was lost.
    const lost = change(put(b.placement.id, { hidden: true }))
    await save(id, 2, lost)
    await save(id, 3, theirs)
    const [free, met] = [
      change(put(b.placement.id, { name: 'Free' })),
      change(put(a.placement.id, { translation: [1, 0, 0] })),
    ]
    const answer = await error('POST', `/api/levels/${id}/changes`, {
      baseRevision: 2,
      changes: [lost, free, met],
    })
    expect(answer).toMatchObject({ status: 409, code: 'conflict' })
    expect(conflictSchema.parse(answer.conflict)).toEqual({
      revision: 4,
      yours: [met.id],
      applied: [{ id: lost.id, revision: 3 }],
      others: [{ ...theirs, revision: 4 }],
    })
    expect((await server.level(id)).placements.find(placement => placement.id === b.placement.id)!.name).toBe('Group')
    expect((await server.level(id)).revision).toBe(4)
  })

  it('answers 409 when others took away what something is to hang from', async () => {
    const { id } = await newLevel()
    const a = newGroup()
    await save(id, 0, change(a.make))
    await save(id, 1, change({ do: 'remove', id: a.placement.id }))
    const answer = await error('POST', `/api/levels/${id}/changes`, {
      baseRevision: 1,
      changes: [change(newGroup({ parentId: a.placement.id }).make)],
    })
    expect(answer.status).toBe(409)
  })

  it('keeps layers and stations as it keeps placements, and copies them with the level', async () => {
    const { id } = await newLevel()
    const [layerId, stationId, thing] = [freshId(), freshId(), newGroup()]
    const layer = { name: 'Roofs', color: '#0e6e6e', visible: true, locked: false, order: 1 }
    const station = { name: 'Tower', eye: [1.5, 2, 3], target: [0, 0.1, 0], fieldOfView: 60, order: 0 } as const
    const { id: _id, ...fields } = thing.placement
    await save(
      id,
      0,
      change(
        put(thing.placement.id, { ...fields, layerId }),
        { do: 'put-layer', id: layerId, fields: layer },
        {
          do: 'put-station',
          id: stationId,
          fields: { ...station, eye: [...station.eye], target: [...station.target] },
        },
      ),
    )
    const {
      layers,
      stations,
      placements: [placed],
    } = await server.level(id)
    expect(layers).toEqual([{ id: layerId, ...layer }])
    expect(stations).toEqual([{ id: stationId, ...station }])
    expect(placed!.layerId).toBe(layerId)
    const copy = await server.newLevel(id)
    expect((await server.level(copy.id)).layers).toEqual(layers)

    const inUse = await error('POST', `/api/levels/${id}/changes`, {
      baseRevision: 1,
      changes: [change({ do: 'remove-layer', id: layerId })],
    })
    expect(inUse).toMatchObject({ status: 422, code: 'in-use' })
    await save(id, 1, change({ do: 'put-layer', id: layerId, fields: { visible: false } }))
    await save(
      id,
      2,
      change(
        put(thing.placement.id, { layerId: null }),
        { do: 'remove-layer', id: layerId },
        { do: 'remove-station', id: stationId },
      ),
    )
    expect(await server.level(id)).toMatchObject({ layers: [], stations: [], revision: 3 })
    const noLayer = await error('POST', `/api/levels/${id}/changes`, {
      baseRevision: 3,
      changes: [change(put(thing.placement.id, { layerId: freshId() }))],
    })
    expect(noLayer).toMatchObject({ status: 422, code: 'missing', field: 'changes.0.operations.0.fields.layerId' })
  })

  it("keeps a kind's own fields, and only those of the kind", async () => {
    const { id } = await newLevel()
    const { id: cameraId, ...fields } = newGroup().placement
    const camera = { ...fields, kind: 'camera' as const, own: cameraOwn({ fieldOfView: 35 }) }
    await save(id, 0, change(put(cameraId, camera)))
    expect((await server.level(id)).placements[0]!.own).toEqual(cameraOwn({ fieldOfView: 35 }))
    for (const own of [{ fieldOfView: 0.5 }, {}, markerOwn('spawn'), { fieldOfView: 35, text: 'x' }]) {
      const answer = await error('POST', `/api/levels/${id}/changes`, {
        baseRevision: 1,
        changes: [
          { id: freshId(), label: 'x', author: 'x', operations: [{ do: 'put', id: cameraId, fields: { own } }] },
        ],
      })
      expect(answer.status, JSON.stringify(own)).toBe(422)
      expect(answer.field).toContain('operations.0.fields.own')
    }
  })

  it('sends and stores what changed, not the level', async () => {
    const { id } = await newLevel('demo')
    const { placements: all } = await server.level(id)
    const answer = await server.call('POST', `/api/levels/${id}/changes`, {
      baseRevision: 0,
      changes: [change(put(all.at(-1)!.id, { translation: [1, 2, 3] }))],
    })
    expect(answer.text.length).toBeLessThan(300)
    const [entry] = await journalOf(id)
    expect(JSON.stringify(entry!.operations).length).toBeLessThan(200)
  })
})

describe('a change that cannot be', () => {
  const refused = async (levelId: string, operations: unknown[], more: object = {}) => {
    const body = { baseRevision: 0, changes: [{ id: freshId(), label: 'Bad', author: 'Test', operations, ...more }] }
    const before = [await rowsOf(levelId), await journalOf(levelId)]
    const { status, code, field, message } = await error('POST', `/api/levels/${levelId}/changes`, body)
    expect([await rowsOf(levelId), await journalOf(levelId)]).toEqual(before)
    expect(message.length).toBeGreaterThan(10)
    return `${status} ${code} ${field}`
  }

  it('is refused with the field named, and changes nothing', async () => {
    const { id } = await newLevel('demo')
    const { placements: all } = await server.level(id)
    const [first, child] = [all[0]!, all.find(placement => placement.parentId === all[0]!.id)!]
    const at = 'changes.0.operations.0'
    const { id: _id, ...fields } = newGroup().placement

    expect(await refused(id, [put(first.id, { scale: [1, 0, 1] })])).toBe(`422 invalid ${at}.fields.scale.1`)
    expect(await refused(id, [put(first.id, { parentId: child.id })])).toBe(`422 cycle ${at}.fields.parentId`)
    expect(await refused(id, [put(first.id, { parentId: freshId() })])).toBe(`422 missing ${at}.fields.parentId`)
    expect(await refused(id, [put(freshId(), { ...fields, kind: 'part', partId: freshId() })])).toBe(
      `422 unknown-part ${at}.fields.partId`,
    )
    expect(await refused(id, [put(freshId(), { ...fields, kind: 'part' })])).toBe(`422 incomplete ${at}.fields.partId`)
    expect(await refused(id, [put(freshId(), { name: 'Half a record' })])).toMatch(
      new RegExp(`^422 incomplete ${at}.fields`),
    )
    expect(await refused(id, [put(first.id, { name: '<img src=x onerror=alert(1)>' })])).toBe(
      `422 invalid ${at}.fields.name`,
    )
    expect(await refused(id, [put(first.id, { name: ' ' })])).toBe(`422 invalid ${at}.fields.name`)
    expect(await refused(id, [put(first.id, { name: 'a\nb' })])).toBe(`422 invalid ${at}.fields.name`)
    expect(await refused(id, [put(first.id, { rotation: [0, 0, 0, 2] })])).toBe(`422 invalid ${at}.fields.rotation`)
    expect(await refused(id, [{ do: 'remove', id: freshId() }])).toBe(`422 missing ${at}.id`)
    expect(await refused(id, [{ do: 'remove', id: first.id }])).toBe('422 has-children changes')
    expect(await refused(id, [{ do: 'empty', id: first.id }])).toBe(`422 invalid ${at}.do`)
    expect(await refused(id, [{ do: 'put', id: first.id, fields: { colour: 'red' } }])).toBe(
      `422 invalid ${at}.fields.colour`,
    )
    expect(await refused(id, [put('not-an-id', { name: 'x' })])).toBe(`422 invalid ${at}.id`)
    expect(await refused(id, [])).toBe('422 invalid changes.0.operations')
    expect(await refused(id, [put(first.id, { name: 'x' })], { label: '<b>' })).toBe('422 invalid changes.0.label')
  })

  it('with a number that is not finite is refused', async () => {
    const { id } = await newLevel('demo')
    const {
      placements: [first],
    } = await server.level(id)
    const body = JSON.stringify({ baseRevision: 0, changes: [change(put(first!.id, { translation: [1, 2, 3] }))] })
    for (const number of ['1e999', '-1e999', 'null', '"2"', '1e10']) {
      expect(
        await error('POST', `/api/levels/${id}/changes`, body.replace('[1,2,3]', `[1,${number},3]`)),
      ).toMatchObject({ status: 422, field: 'changes.0.operations.0.fields.translation.1' })
    }
    expect(await error('POST', `/api/levels/${id}/changes`, body.replace('[1,2,3]', '[1,NaN,3]'))).toMatchObject({
      status: 400,
      code: 'malformed',
    })
  })

  it('on a level, a revision or a body that does not fit is refused', async () => {
    const { id } = await newLevel()
    const good = change(newGroup().make)
    expect((await error('POST', `/api/levels/${freshId()}/changes`, { baseRevision: 0, changes: [good] })).status).toBe(
      404,
    )
    expect((await error('POST', '/api/levels/nonsense/changes', { baseRevision: 0, changes: [good] })).status).toBe(404)
    expect(await error('POST', `/api/levels/${id}/changes`, { baseRevision: 5, changes: [good] })).toMatchObject({
      status: 422,
      field: 'baseRevision',
    })
    expect(await error('POST', `/api/levels/${id}/changes`, '{"baseRevision": 0, "changes": [')).toMatchObject({
      status: 400,
      code: 'malformed',
      field: 'body',
    })
    expect(await error('POST', `/api/levels/${id}/changes`, Uint8Array.from([0x22, 0xff, 0x22]))).toMatchObject({
      status: 400,
      code: 'malformed',
    })
    expect(await error('POST', `/api/levels/${id}/changes`, '[]')).toMatchObject({ status: 422 })
    expect(await rowsOf(id)).toEqual([])
  })

  it("of another level's things is refused, and those stay", async () => {
    const [one, two] = [await newLevel(), await newLevel()]
    const a = newGroup()
    await save(one.id, 0, change(a.make))
    expect(await refused(two.id, [put(a.placement.id, { name: 'Stolen' })])).toMatch(/^422 incomplete/)
    expect(await refused(two.id, [{ do: 'remove', id: a.placement.id }])).toMatch(/^422 missing/)
    expect((await server.level(one.id)).placements[0]!.name).toBe('Group')
  })

  it('does not half happen: a bad one takes a good one of the same request with it', async () => {
    const { id } = await newLevel()
    const answer = await error('POST', `/api/levels/${id}/changes`, {
      baseRevision: 0,
      changes: [change(newGroup().make), change({ do: 'remove', id: freshId() })],
    })
    expect(answer.field).toBe('changes.1.operations.0.id')
    expect(await rowsOf(id)).toEqual([])
    const [level] = await server.get().db.select().from(levels).where(eq(levels.id, id))
    expect(level).toMatchObject({ revision: 0, placementCount: 0 })
  })

  it('is also refused by the database itself', async () => {
    const { id } = await newLevel('demo')
    const [row] = await rowsOf(id)
    const { db } = server.get()
    const where = and(eq(placements.levelId, id), eq(placements.id, row!.id))
    await expect(db.update(placements).set({ scaleX: 0 }).where(where)).rejects.toThrow()
    await expect(db.update(placements).set({ parentId: freshId() }).where(where)).rejects.toThrow()
    const { parts } = kitSchema.parse((await server.call('GET', '/api/kit')).json)
    await expect(db.update(placements).set({ kind: 'group', partId: parts[0]!.id }).where(where)).rejects.toThrow()
  })
})
