import { validateBytes } from 'gltf-validator'
import { BoxGeometry } from 'three'
import { describe, expect, it } from 'vitest'
import { writePartGlb } from '../../core/formats/part-glb'
import { testSolid } from '../support'
import { change, freshId, newGroup, put, useServer } from './support'

// What is taken in has to make sense to whoever reads it. Each file here would once have locked everyone out of the
// kit.
const server = useServer()
const { call, error } = server

type Json = {
  accessors: Record<string, unknown>[]
  bufferViews: Record<string, unknown>[]
  meshes: { primitives: Record<string, unknown>[] }[]
  buffers: Record<string, unknown>[]
  [key: string]: unknown
}

/** A good file of a cube with its description changed, or its data. */
async function spoiltGlb(change: (json: Json, data: DataView) => void): Promise<Uint8Array> {
  const good = await writePartGlb('Cube', testSolid(new BoxGeometry(1, 1, 1)).mesh)
  const view = new DataView(good.buffer, good.byteOffset, good.byteLength)
  const jsonLength = view.getUint32(12, true)
  const json = JSON.parse(new TextDecoder().decode(good.subarray(20, 20 + jsonLength))) as Json
  const data = good.slice(28 + jsonLength)
  change(json, new DataView(data.buffer))
  const text = new TextEncoder().encode(JSON.stringify(json))
  const padded = Math.ceil(text.length / 4) * 4
  const out = new Uint8Array(28 + padded + data.length).fill(0x20)
  const head = new DataView(out.buffer)
  const words: [number, number][] = [
    [0, 0x46546c67],
    [4, 2],
    [8, out.length],
    [12, padded],
    [16, 0x4e4f534a],
    [20 + padded, data.length],
    [24 + padded, 0x004e4942],
  ]
  for (const [at, value] of words) head.setUint32(at, value, true)
  out.set(text, 20)
  out.set(data, 28 + padded)
  return out
}

const address = (id = freshId()) => `/api/parts?id=${id}&name=Cube&kind=prop&inKit=true`

describe('a mesh that makes no sense', () => {
  it('is refused with what is wrong, and the kit is as it was', async () => {
    const before = (await call('GET', '/api/kit')).text
    const spoilt: [string, (json: Json, data: DataView) => void, RegExp][] = [
      ['without vertices', json => (json.accessors[0]!.count = 0), /accessors\.0\.count/],
      ['with a negative count', json => (json.accessors[0]!.count = -3), /accessors\.0\.count/],
      ['that claims more than it holds', json => (json.accessors[0]!.count = 5_000_000), /claims more/],
      [
        'that is sparse and claims 5 million vertices',
        json => {
          json.accessors[0]!.count = 5_000_000
          json.accessors[0]!.sparse = {
            count: 1,
            indices: { bufferView: 0, componentType: 5123 },
            values: { bufferView: 0 },
          }
        },
        /sparse/,
      ],
      ['with a vertex that is nowhere', (_json, data) => data.setFloat32(0, NaN, true), /nowhere/],
      ['with a vertex at infinity', (_json, data) => data.setFloat32(4, Infinity, true), /nowhere/],
      ['with a vertex that is enormously far away', (_json, data) => data.setFloat32(8, 1e30, true), /nowhere|too far/],
      ['of lines', json => (json.meshes[0]!.primitives[0]!.mode = 1), /only triangles/],
      [
        'with an index beyond its vertices',
        (json, data) => data.setUint16(Number(json.bufferViews.at(-1)!.byteOffset ?? 0), 60_000, true),
        /not there|index|indices/i,
      ],
      ['with too few normals', json => (json.accessors[1]!.count = 3), /normal/],
      [
        'without normals',
        json => delete (json.meshes[0]!.primitives[0]!.attributes as Record<string, number>).NORMAL,
        /normals/,
      ],
      ['with an accessor that is not there', json => (json.meshes[0]!.primitives[0]!.indices = 99), /no accessor/],
      ['with data elsewhere', json => (json.buffers[0]!.uri = 'https://example.com/x.bin'), /in the file itself/],
      ['that needs an extension', json => (json.extensionsRequired = ['KHR_draco_mesh_compression']), /extensions/],
      [
        'a hundred thousand times the same vertices',
        json => (json.meshes[0]!.primitives = Array.from({ length: 400_000 }, () => json.meshes[0]!.primitives[0]!)),
        /description is longer|more vertices/,
      ],
    ]
    for (const [what, change, says] of spoilt) {
      expect(await error('POST', address(), await spoiltGlb(change)), what).toMatchObject({
        status: 415,
        code: 'not-a-mesh',
        field: 'body',
        message: expect.stringMatching(says),
      })
    }
    expect((await call('GET', '/api/kit')).text).toBe(before)
    // The same way of writing, with nothing spoilt, is taken.
    expect((await call('POST', address(), await spoiltGlb(() => {}))).status).toBe(200)
  })

  it('does not hide behind a valid one: the file has to pass the Khronos validator', async () => {
    const twisted = await spoiltGlb((_json, data) => data.setFloat32(24 * 12, 7, true))
    expect((await validateBytes(twisted)).issues.numErrors).toBeGreaterThan(0)
    expect(await error('POST', address(), twisted)).toMatchObject({ status: 415, field: 'body' })
  })
})

describe('a part', () => {
  it('is deleted while nothing shows it, and can be made again', async () => {
    const id = freshId()
    const glb = await writePartGlb('Cube', testSolid(new BoxGeometry(1, 2, 1)).mesh)
    await call('POST', address(id), glb)
    const { id: levelId } = await server.newLevel()
    const { placement } = newGroup()
    const { id: _id, ...fields } = placement
    await server.save(levelId, 0, change(put(placement.id, { ...fields, kind: 'part', partId: id })))
    expect(await error('DELETE', `/api/parts/${id}`)).toMatchObject({ status: 409, code: 'in-use' })
    await server.save(levelId, 1, change({ do: 'remove', id: placement.id }))
    expect((await call('DELETE', `/api/parts/${id}`)).status).toBe(204)
    expect((await call('GET', `/api/parts/${id}`)).status).toBe(404)
    expect(await error('DELETE', `/api/parts/${id}`)).toMatchObject({ status: 404 })
    expect((await call('POST', address(id), glb)).status).toBe(200)
  })
})

describe('text, ids and keys', () => {
  it('that are none are refused everywhere, with the field named', async () => {
    const { id } = await server.newLevel()
    for (const name of ['half \\ud83c', '\\udfee', 'a\\u0000b'])
      expect(await error('POST', '/api/levels', `{"name":"${name}"}`), name).toMatchObject({
        status: 422,
        field: 'name',
      })
    const { placement } = newGroup()
    const { id: _id, ...fields } = placement
    const save = (
      own: unknown,
      text = JSON.stringify({
        baseRevision: 0,
        changes: [
          { ...change(), operations: [{ do: 'put', id: freshId(), fields: { ...fields, kind: 'arrangement', own } }] },
        ],
      }),
    ) => error('POST', `/api/levels/${id}/changes`, text)
    const line = {
      type: 'line',
      count: 3,
      along: [1, 0, 0],
      measure: 'spacing',
      least: 1,
      ratio: 1,
      centred: false,
      turn: [0, 0, 0],
      size: 1,
      axes: 'world',
    }
    const grid = {
      type: 'grid',
      counts: [2, 1, 2],
      spacing: [1, 1, 1],
      measure: 'spacing',
      stagger: 0,
      bond: false,
      centred: false,
    }
    const at = 'changes.0.operations.0.fields.own'
    expect(await save({ rule: line, exceptions: { '007': { hidden: true } } })).toMatchObject({
      status: 422,
      field: `${at}.exceptions.007`,
    })
    expect(await save({ rule: line, exceptions: { ['9'.repeat(100_000)]: { hidden: true } } })).toMatchObject({
      status: 422,
    })
    expect(await save({ rule: line, vary: { seed: 1, move: [0, 0, 0], turn: [0, 0, 0], size: [2, 1] } })).toMatchObject(
      { status: 422, field: `${at}.vary.size` },
    )
    expect(await save({ rule: { ...line, count: 700, size: 3 } })).toMatchObject({
      status: 422,
      message: expect.stringContaining('copy 27'),
    })
    for (const text of ['row > 1 ? 0.3(row-1) : 0', 'row>5 ? __proto__ : 1', 'row > 2 ? min() : 0', 'constructor']) {
      expect(await save({ rule: { ...grid, rise: { by: 'expression', text } } }), text).toMatchObject({
        status: 422,
        field: `${at}.rule.rise.text`,
      })
    }
    const proto = JSON.stringify({
      baseRevision: 0,
      changes: [
        {
          ...change(),
          operations: [
            {
              do: 'put',
              id: freshId(),
              fields: { ...fields, kind: 'arrangement', own: { rule: line, exceptions: { x: 1 } } },
            },
          ],
        },
      ],
    }).replace('"x":1', '"__proto__":{"hidden":true}')
    expect(await save(null, proto)).toMatchObject({ status: 422, field: 'body' })
    expect(await error('POST', `/api/levels/${id}/changes`, '[]')).toMatchObject({
      field: 'body',
      message: expect.stringMatching(/^body: /),
    })
    expect((await server.level(id)).revision).toBe(0)
  })

  it('in capital letters is the same id', async () => {
    const { id } = await server.newLevel()
    const { placement, make } = newGroup()
    await server.save(id, 0, change(make))
    await server.save(id.toUpperCase(), 1, change(put(placement.id.toUpperCase(), { name: 'Same' })))
    expect((await server.level(id)).placements.map(({ id: each, name }) => [each, name])).toEqual([
      [placement.id, 'Same'],
    ])
  })

  it('sent again with other content is refused, not answered as done', async () => {
    const { id } = await server.newLevel()
    const sent = change(newGroup().make)
    await server.save(id, 0, sent)
    expect((await server.save(id, 0, sent)).revision).toBe(1)
    expect(
      await error('POST', `/api/levels/${id}/changes`, { baseRevision: 0, changes: [{ ...sent, label: 'Another' }] }),
    ).toMatchObject({ status: 409, code: 'id-taken', field: 'changes.0.id' })
    expect((await server.level(id)).revision).toBe(1)
  })
})
