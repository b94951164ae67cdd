import { validateBytes } from 'gltf-validator'
import { BoxGeometry, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { writePartGlb, readPartGlb } from '../../core/formats/part-glb'
import { meshBounds } from '../../core/mesh/mesh'
import { bakeMesh } from '../../core/mesh/bake-mesh'
import { FIRST_BLOCKS } from '../../core/mesh/block'
import { partSchema } from '../../core/level/part'
import { bake } from '../../core/edit/bake'
import { bareView } from '../../core/scene/level-view'
import { createPlacement } from '../../core/level/create'
import { demoId, lanternQuayKit } from '../../demo/kit'
import { meshVolume, testSolid } from '../support'
import { change, freshId, newGroup, put, useServer } from './support'

const server = useServer()
const { call, error, newLevel, save } = server

const address = (fields: Record<string, string>) => `/api/parts?${new URLSearchParams(fields)}`
const named = (id: string) => ({ id, name: 'Made here', kind: 'prop', tags: 'wood,market', inKit: 'false' })

describe('a part somebody makes', () => {
  it('is measured on its mesh, listed with the kit, and made once however often it is sent', async () => {
    const id = freshId()
    const glb = await writePartGlb('Made here', testSolid(new BoxGeometry(2, 1, 0.5)).mesh)
    const first = await call('POST', address(named(id)), glb)
    expect(partSchema.parse(first.json)).toMatchObject({
      id,
      tags: ['wood', 'market'],
      inKit: false,
      pivot: [0, 0, 0],
      triangles: 12,
      boundsMin: [-1, 0, -0.25],
      boundsMax: [1, 1, 0.25],
    })
    expect((await call('POST', address(named(id)), glb)).json).toEqual(first.json)
    expect(
      ((await call('GET', '/api/kit')).json as { parts: { id: string }[] }).parts.filter(part => part.id === id),
    ).toHaveLength(1)
    const fetched = await fetch(`${server.get().url}/api/meshes/${(first.json as { meshHash: string }).meshHash}`)
    expect(
      meshBounds((await readPartGlb(new Uint8Array(await fetched.arrayBuffer()))).mesh)
        .getSize(new Vector3())
        .toArray(),
    ).toEqual([2, 1, 0.5])
  })

  it('is refused with the field named when anything about it is wrong', async () => {
    const glb = await writePartGlb('x', testSolid(new BoxGeometry(1, 1, 1)).mesh)
    const post = (fields: Record<string, string>, body: unknown = glb) => error('POST', address(fields), body)
    expect(await post(named('nobody'))).toMatchObject({ status: 422, field: 'id' })
    expect(await post({ ...named(freshId()), name: '<b>' })).toMatchObject({ status: 422, field: 'name' })
    expect(await post({ ...named(freshId()), kind: 'castle' })).toMatchObject({ status: 422, field: 'kind' })
    expect(await post({ ...named(freshId()), inKit: 'maybe' })).toMatchObject({ status: 422, field: 'inKit' })
    expect(await post({ ...named(freshId()), color: 'red' })).toMatchObject({ status: 422, field: 'color' })
    expect(await post(named(freshId()), 'no glTF')).toMatchObject({ status: 415, code: 'not-a-mesh', field: 'body' })
    expect(await post(named(freshId()), new Uint8Array(0))).toMatchObject({ status: 415, field: 'body' })
    expect(await post(named(freshId()), glb.slice(0, 200))).toMatchObject({ status: 415, field: 'body' })
  })

  it('has a pivot for what is placed of it from now on', async () => {
    const id = freshId()
    await call('POST', address(named(id)), await writePartGlb('x', testSolid(new BoxGeometry(1, 1, 1)).mesh))
    expect((await call('PATCH', `/api/parts/${id}`, { pivot: [0.5, 0, 0.5] })).json).toMatchObject({
      pivot: [0.5, 0, 0.5],
    })
    expect(await error('PATCH', `/api/parts/${id}`, { pivot: [1, 2] })).toMatchObject({ status: 422, field: 'pivot' })
    expect(await error('PATCH', `/api/parts/${freshId()}`, { pivot: [0, 0, 0] })).toMatchObject({ status: 404 })
  })

  it('baked from a mirrored size is turned right way out, and the level it is in passes the validator', async () => {
    const { id } = await newLevel()
    const crate = lanternQuayKit().find(part => part.name === 'Crate')!
    const placement = createPlacement({
      id: freshId(),
      name: 'Mirrored',
      kind: 'part',
      partId: crate.id,
      scale: [-2, 1, 1],
      rotation: [0, 0.6, 0, 0.8],
    })
    const partId = freshId()
    const { matrix, operations } = bake(bareView([placement]), placement.id, 'both', partId)
    const mesh = bakeMesh(crate.mesh, matrix)
    expect(meshVolume(mesh) / meshVolume(crate.mesh)).toBeCloseTo(2, 3)
    expect((await call('POST', address(named(partId)), await writePartGlb('Mirrored', mesh))).status).toBe(200)
    const { id: _id, ...fields } = placement
    await save(id, 0, change(put(placement.id, fields)), change(...operations))
    const response = await fetch(`${server.get().url}/api/levels/${id}/export.glb`)
    const { issues } = await validateBytes(new Uint8Array(await response.arrayBuffer()))
    expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
  })
})

describe('blocks', () => {
  const blockPut = (id: string, shape = FIRST_BLOCKS.steps as object) => ({
    do: 'put-block' as const,
    id,
    fields: { shape: shape as typeof FIRST_BLOCKS.steps, color: '#aa8866' },
  })
  const placed = (blockId: string) => {
    const placement = createPlacement({ id: freshId(), name: 'Steps', kind: 'block', blockId })
    const { id, ...fields } = placement
    return { placement, make: put(id, fields) }
  }

  it('are kept and shared by their instances, duplicated with the level, and handed over as one mesh', async () => {
    const { id } = await newLevel()
    const blockId = freshId()
    const [one, two] = [placed(blockId), placed(blockId)]
    await save(id, 0, change(blockPut(blockId), one.make, two.make))
    await save(id, 1, change({ do: 'put-block', id: blockId, fields: { shape: { ...FIRST_BLOCKS.steps, count: 9 } } }))
    const level = await server.level(id)
    expect(level.blocks).toEqual([{ id: blockId, color: '#aa8866', shape: { ...FIRST_BLOCKS.steps, count: 9 } }])
    expect(level.placements.map(placement => placement.blockId)).toEqual([blockId, blockId])
    const copy = (await call('POST', '/api/levels', { name: 'Copy', from: id })).json as { id: string }
    expect((await server.level(copy.id)).blocks).toEqual(level.blocks)
    const glb = new Uint8Array(await (await fetch(`${server.get().url}/api/levels/${id}/export.glb`)).arrayBuffer())
    const { issues, info } = (await validateBytes(glb)) as Awaited<ReturnType<typeof validateBytes>> & {
      info: { drawCallCount: number }
    }
    expect([issues.numErrors, issues.numWarnings, info.drawCallCount]).toEqual([0, 0, 1])
  })

  it('that do not fit are refused with the field named, and change nothing', async () => {
    const { id } = await newLevel()
    const blockId = freshId()
    const send = (...operations: Parameters<typeof change>) =>
      error('POST', `/api/levels/${id}/changes`, { baseRevision: 0, changes: [change(...operations)] })
    expect(await send(blockPut(blockId, { ...FIRST_BLOCKS.tube, wall: 3 }))).toMatchObject({
      status: 422,
      field: 'changes.0.operations.0.fields.shape.wall',
    })
    expect(await send(blockPut(blockId, { shape: 'pyramid' }))).toMatchObject({ status: 422 })
    expect(await send(placed(blockId).make)).toMatchObject({
      status: 422,
      code: 'missing',
      field: 'changes.0.operations.0.fields.blockId',
    })
    expect(
      await send(blockPut(blockId), put(freshId(), { ...newGroup().placement, id: undefined as never, blockId })),
    ).toMatchObject({ status: 422 })
    expect((await server.level(id)).blocks).toEqual([])
  })

  it('that are still shown cannot be removed', async () => {
    const { id } = await newLevel()
    const blockId = freshId()
    const one = placed(blockId)
    await save(id, 0, change(blockPut(blockId), one.make))
    expect(
      await error('POST', `/api/levels/${id}/changes`, {
        baseRevision: 1,
        changes: [change({ do: 'remove-block', id: blockId })],
      }),
    ).toMatchObject({ status: 422, code: 'in-use' })
    await save(id, 1, change({ do: 'remove', id: one.placement.id }, { do: 'remove-block', id: blockId }))
    expect(await server.level(id)).toMatchObject({ blocks: [], placements: [] })
  })

  it('that others removed meanwhile make a conflict', async () => {
    const { id } = await newLevel()
    const blockId = freshId()
    await save(id, 0, change(blockPut(blockId)))
    await save(id, 1, change({ do: 'remove-block', id: blockId }))
    expect(
      (await error('POST', `/api/levels/${id}/changes`, { baseRevision: 1, changes: [change(placed(blockId).make)] }))
        .status,
    ).toBe(409)
  })
})

it("the demo's kit is not changed by any of this", async () => {
  const crate = partSchema.parse((await call('GET', `/api/parts/${demoId('part/Crate')}`)).json)
  expect(crate).toMatchObject({ inKit: true, pivot: [0, 0, 0] })
})
