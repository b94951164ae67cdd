import { eq } from 'drizzle-orm'
import { describe, expect, it } from 'vitest'
import type { ArrangementOwn } from '../../core/arrange/arrangement'
import { RULES } from '../../core/arrange/rules'
import { createPlacement } from '../../core/level/create'
import { changes } from '../../server/db/schema'
import { change, freshId, put, useServer } from './support'

const server = useServer()
const { error, newLevel, save } = server
const arrangement = (own: unknown) => {
  const { id, ...fields } = createPlacement({
    id: freshId(),
    name: 'Rows',
    kind: 'arrangement',
    own: own as ArrangementOwn,
  })
  return put(id, fields)
}

describe('an arrangement', () => {
  it('is kept as its rule: what is saved for another number is as long for a million copies as for one', async () => {
    const { id } = await newLevel()
    const own: ArrangementOwn = {
      rule: RULES.grid.first,
      vary: { seed: 3, move: [0.1, 0, 0], turn: [0, 20, 0], size: [0.9, 1.1] },
      exceptions: { '2,1,0': { move: [0, 1, 0], turn: [0, 1, 0, 0] } },
    }
    const made = arrangement(own)
    await save(id, 0, change(made))
    const level = await server.level(id)
    expect(level.placements[0]!.own).toEqual(own)
    for (const [i, counts] of (
      [
        [1, 1, 1],
        [1000, 1, 1000],
      ] as [number, number, number][]
    ).entries())
      await save(id, 1 + i, change(put(made.id, { own: { ...own, rule: { ...RULES.grid.first, counts } } })))
    const journal = await server
      .get()
      .db.select()
      .from(changes)
      .where(eq(changes.levelId, id))
      .orderBy(changes.revision)
    const [few, many] = journal.slice(1).map(entry => JSON.stringify(entry.operations).length)
    expect(Math.abs(many! - few!)).toBeLessThan(10)
    expect((await server.level(id)).placementCount).toBe(1)
  })

  it('that does not fit is refused with the field named, and changes nothing', async () => {
    const { id } = await newLevel()
    const send = (own: unknown) =>
      error('POST', `/api/levels/${id}/changes`, { baseRevision: 0, changes: [change(arrangement(own))] })
    const [line, grid, path] = [RULES.line.first, RULES.grid.first, RULES.path.first]
    const own = 'changes.0.operations.0.fields.own'
    expect(await send({ rule: { ...line, count: 2_000_000 } })).toMatchObject({
      status: 422,
      field: `${own}.rule.count`,
      message: expect.stringContaining('at most a million'),
    })
    expect(await send({ rule: { ...grid, counts: [2000, 1, 2000] } })).toMatchObject({
      status: 422,
      field: `${own}.rule.counts`,
      message: expect.stringContaining('4,000,000'),
    })
    expect(await send({ rule: { ...path, points: [[0, 0, 0]] } })).toMatchObject({
      status: 422,
      field: `${own}.rule.points`,
    })
    expect(await send({ rule: { ...grid, rise: { by: 'expression', text: 'process.exit(1)' } } })).toMatchObject({
      status: 422,
      field: `${own}.rule.rise.text`,
    })
    expect(await send({ rule: line, exceptions: { '1': { size: [0, 1, 1] } } })).toMatchObject({
      status: 422,
      field: `${own}.exceptions.1.size.0`,
    })
    expect((await server.level(id)).placements).toEqual([])
    expect(await error('GET', `/api/levels/${id}/export.glb?instanced=perhaps`)).toMatchObject({
      status: 422,
      field: 'instanced',
    })
  })
})
