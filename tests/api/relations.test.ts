import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { importAnswerSchema } from '../../core/api/schema'
import type { Operation } from '../../core/level/schema'
import { change, freshId, newGroup, put, useServer } from './support'

const server = useServer()

function apart(held: string, holder: string): Operation {
  return {
    do: 'put-relation',
    id: freshId(),
    fields: {
      held,
      point: [0, 0, 0],
      holders: [{ at: [0, 0, 0], on: holder, point: [0, 0, 0] }],
      rule: { kind: 'apart', along: [1, 0, 0], distance: 0.1 + 0.2 },
    },
  }
}

describe('relations of a level', () => {
  it('are kept to the last digit, duplicated with it, written to its file and read from it', async () => {
    const { id } = await server.newLevel()
    const [wall, box] = [newGroup(), newGroup()]
    const made = apart(box.placement.id, wall.placement.id)
    await server.save(id, 0, change(wall.make, box.make), change(made))
    const { relations } = await server.level(id)
    expect(relations).toEqual([{ id: made.id, ...('fields' in made ? made.fields : {}) }])
    const copy = await server.newLevel(id)
    expect((await server.level(copy.id)).relations).toEqual(relations)
    const file = await (await fetch(`${server.get().url}/api/levels/${id}/export.handygrid`)).arrayBuffer()
    const again = await fetch(`${server.get().url}/api/import`, {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    })
    expect(again.status, await again.clone().text()).toBe(200)
    const { levelId } = importAnswerSchema.parse(await again.json())
    expect((await server.level(levelId!)).relations).toEqual(relations)
  })

  it('that make a circle are refused, also by what hangs from what, and when two are made at once', async () => {
    const { id } = await server.newLevel()
    const [a, b, c] = [newGroup(), newGroup(), newGroup()]
    await server.save(id, 0, change(a.make, b.make, c.make))
    const ids = [a, b, c].map(({ placement }) => placement.id)
    const ask = (baseRevision: number, ...operations: Operation[]) =>
      server.call('POST', `/api/levels/${id}/changes`, { baseRevision, changes: [change(...operations)] })
    const [first, second, third] = await Promise.all([
      ask(1, apart(ids[0]!, ids[1]!)),
      ask(1, apart(ids[1]!, ids[2]!)),
      ask(1, apart(ids[2]!, ids[0]!)),
    ])
    expect([first.status, second.status, third.status].toSorted()).toEqual([200, 200, 422])
    const refused = [first, second, third].find(({ status }) => status === 422)!
    expect(refused.json).toMatchObject({ error: { code: 'cycle', field: 'changes' } })
    const { relations, revision } = await server.level(id)
    expect(relations).toHaveLength(2)
    // What holds a thing is put below it.
    const held = relations[0]!
    const hung = await ask(revision, put(held.holders[0]!.on!, { parentId: held.held }))
    expect([hung.status, (await server.level(id)).revision]).toEqual([422, revision])
    const nobody = await ask(revision, apart(ids[0]!, freshId()))
    expect([nobody.status, nobody.json]).toMatchObject([422, { error: { code: 'missing' } }])
  })

  it('of a file are brought in but for those that cannot be, also into another level, and that is said', async () => {
    const { id } = await server.newLevel()
    const [a, b, c] = [newGroup(), newGroup(), newGroup()]
    const ids = [a, b, c].map(({ placement }) => placement.id)
    await server.save(id, 0, change(a.make, b.make, c.make), change(apart(ids[0]!, ids[1]!)))
    const file = new Uint8Array(
      await (await fetch(`${server.get().url}/api/levels/${id}/export.handygrid`)).arrayBuffer(),
    )
    // A circle, and a link to what is not there, written into the file by another program.
    const entries = unzipSync(file)
    const level = JSON.parse(strFromU8(entries['level.json']!)) as { relations: { holders: object[] }[] }
    const [first] = level.relations as [{ holders: object[] }]
    const holder = { at: [0, 0, 0], point: [0, 0, 0] }
    level.relations.push(
      { ...first, ...{ id: freshId(), held: ids[1]! }, holders: [{ ...holder, on: ids[2]! }] },
      { ...first, ...{ id: freshId(), held: ids[2]! }, holders: [{ ...holder, on: ids[1]! }] },
      { ...first, ...{ id: freshId(), held: ids[1]! }, holders: [{ ...holder, on: freshId() }] },
    )
    entries['level.json'] = strToU8(JSON.stringify(level))
    const bring = async (query: string) => {
      const answer = await fetch(`${server.get().url}/api/import?${query}`, {
        method: 'POST',
        headers: { 'content-type': 'application/octet-stream' },
        body: new Blob([new Uint8Array(zipSync(entries))]),
      })
      expect(answer.status, await answer.clone().text()).toBe(200)
      return importAnswerSchema.parse(await answer.json())
    }
    const made = await bring('')
    expect(made.notes.join()).toMatch(/1 link to things that are not in it.*2 links of things that follow/)
    expect((await server.level(made.levelId!)).relations).toMatchObject([{ held: ids[0], holders: [{ on: ids[1] }] }])
    const other = await server.newLevel()
    await bring(`into=${other.id}&apply=true&author=Test`)
    const { relations, placements } = await server.level(other.id)
    expect(relations).toHaveLength(1)
    const named = (id: string | null | undefined) => placements.find(each => each.id === id)?.name
    expect([named(relations[0]!.held), named(relations[0]!.holders[0]!.on)]).toEqual([
      a.placement.name,
      b.placement.name,
    ])
  })
})
