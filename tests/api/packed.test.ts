import { describe, expect, it } from 'vitest'
import { readingWork } from '../../app/editor/reading/reading-work'
import { fromColumns } from '../../core/level/columns'
import { createPlacement } from '../../core/level/create'
import { splitRecords } from '../../core/level/level'
import { PACKED_AT_A_TIME, PACKED_TYPE } from '../../core/level/packed'
import type { Placement } from '../../core/level/schema'
import { demoId } from '../../demo/kit'
import { change, freshId, put, useServer } from './support'

const server = useServer()

async function packed(id: string) {
  const response = await fetch(`${server.get().url}/api/levels/${id}/packed`)
  expect([response.status, response.headers.get('content-type')]).toEqual([200, PACKED_TYPE])
  return new Uint8Array(await response.arrayBuffer())
}

/** Reads as the page does. */
async function read(bytes: Uint8Array) {
  const found = { head: {} as object, placements: [] as Placement[], items: 0 }
  const unreadable = await readingWork().read(
    bytes,
    head => {
      found.head = head
    },
    columns => {
      found.items++
      found.placements.push(...fromColumns(columns))
    },
  )
  return { ...found, unreadable }
}

/** The same as the JSON for scripts has it. */
async function asJson(id: string) {
  const { placements, ...rest } = await server.level(id)
  const { records, rest: summary } = splitRecords(rest)
  return { head: { said: summary, records }, placements }
}

describe('a packed level', () => {
  it('is the same as in JSON: the demo with all that is in it, and an empty one', async () => {
    for (const from of ['demo', 'empty']) {
      const { id } = await server.newLevel(from)
      const { head, placements, unreadable } = await read(await packed(id))
      expect({ head, placements }).toEqual(await asJson(id))
      expect(unreadable).toEqual([])
    }
  })

  it('has names of any script, -0, the farthest numbers and deep trees as they are', async () => {
    const { id } = await server.newLevel()
    const names = ['Łódź', '船着き場', '🏮 lantern', 'a "quoted" \\ name', 'é']
    let parentId: string | null = null
    const all = names.map((name, i) => {
      const numbers = [-0, 1e-300, 9_999.123456789, -9_999, 0.1 + 0.2]
      const made = createPlacement({ id: freshId(), name, kind: 'group', parentId, order: numbers[i] })
      made.translation = [numbers[i]!, -numbers[i]!, 0]
      made.hidden = i % 2 === 0
      made.locked = i % 3 === 0
      parentId = made.id
      return made
    })
    await server.save(id, 0, change(...all.map(({ id: thing, ...fields }) => put(thing, fields))))
    const { placements } = await read(await packed(id))
    expect(placements).toEqual((await asJson(id)).placements)
    expect(new Map(placements.map(each => [each.id, each.name]))).toEqual(
      new Map(all.map(each => [each.id, each.name])),
    )
  })

  it('of more than one item comes whole and in order, and much smaller than as JSON', async () => {
    const { id } = await server.newLevel()
    const count = PACKED_AT_A_TIME + 7
    const crates = Array.from({ length: count }, (_, i) =>
      createPlacement({
        id: freshId(),
        name: `Crate ${i}`,
        kind: 'part',
        partId: demoId('part/Crate'),
        order: count - i,
        translation: [i * 1.25, 0, -i / 3],
      }),
    )
    await server.save(id, 0, change(...crates.map(({ id: thing, ...fields }) => put(thing, fields))))
    const { placements, items } = await read(await packed(id))
    expect(items).toBe(2)
    expect(placements).toEqual((await asJson(id)).placements)
    expect(placements.map(({ name }) => name)).toEqual(crates.map(({ name }) => name).toReversed())
    const size = async (path: string) =>
      (await fetch(server.get().url + path, { headers: { 'accept-encoding': 'identity' } })).arrayBuffer()
    const [bytes, json] = [await size(`/api/levels/${id}/packed`), await size(`/api/levels/${id}`)]
    expect(bytes.byteLength).toBeLessThan(json.byteLength / 3)
  })

  it('comes as it is to whoever takes no compression; there is none of a level that is not there', async () => {
    const { id } = await server.newLevel('demo')
    const ask = (headers: Record<string, string>) => fetch(`${server.get().url}/api/levels/${id}/packed`, { headers })
    const plain = await ask({ 'accept-encoding': 'identity' })
    expect(plain.headers.get('content-encoding')).toBeNull()
    expect((await read(new Uint8Array(await plain.arrayBuffer()))).placements.length).toBeGreaterThan(50)
    expect((await ask({ 'accept-encoding': 'gzip' })).headers.get('vary')).toContain('accept-encoding')
    expect(await server.error('GET', `/api/levels/${freshId()}/packed`)).toMatchObject({ status: 404 })
  })
})
