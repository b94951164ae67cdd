import { readFile } from 'node:fs/promises'
import { validateBytes } from 'gltf-validator'
import { BoxGeometry } from 'three'
import { eq } from 'drizzle-orm'
import { describe, expect, it } from 'vitest'
import { checkedFileSchema, usesSchema, workshopSchema } from '../../core/api/schema'
import { readPartGlb, readStepsGlb, writePartGlb } from '../../core/formats/part-glb'
import { createPlacement } from '../../core/level/create'
import type { Part } from '../../core/level/part'
import { partSchema } from '../../core/level/part'
import type { Operation, Placement } from '../../core/level/schema'
import { demoId } from '../../demo/kit'
import { levels, meshes, meshSteps, parts, textures } from '../../server/db/schema'
import { triangleCount } from '../../core/mesh/mesh'
import { keepSteps } from '../../server/services/steps'
import { testSolid } from '../support'
import { testPicture, texturedBox } from '../textured'
import { change, freshId, newGroup, put, useServer } from './support'

const server = useServer()
const { call, error, newLevel, save } = server

const placed = (partId: string, more: Partial<Placement> = {}): Operation => {
  const { id, ...fields } = createPlacement({ id: freshId(), name: 'Placed', kind: 'part', partId, ...more })
  return put(id, fields)
}
const bring = async (made: Awaited<ReturnType<typeof texturedBox>>, glb?: Uint8Array): Promise<Part> => {
  const id = freshId()
  const answer = await call(
    'POST',
    `/api/parts?${new URLSearchParams({ id, name: 'Painted', kind: 'prop', tags: '', inKit: 'true' })}`,
    glb ?? (await writePartGlb('Painted', made.mesh, picture => made.pictures.get(picture)!)),
  )
  return partSchema.parse(answer.json)
}
const make = (operations: Operation[], id = freshId()) =>
  call('POST', '/api/parts/made', {
    id,
    name: 'Stall',
    kit: 'Market',
    kind: 'prop',
    tags: ['market'],
    inKit: true,
    operations,
  })
const made = async (operations: Operation[]): Promise<Part> => partSchema.parse((await make(operations)).json)
const partOf = async (id: string): Promise<Part> => partSchema.parse((await call('GET', `/api/parts/${id}`)).json)
const openPart = async (id: string) => workshopSchema.parse((await call('POST', `/api/parts/${id}/workshop`, {})).json)
const remake = async (id: string) =>
  ((await call('POST', `/api/parts/${id}/remake`, {})).json as { parts: Part[] }).parts.map(part => part.id)
const heightOf = ({ boundsMin, boundsMax }: Part) => boundsMax[1] - boundsMin[1]
const CRATE = demoId('part/Crate')
const CRATE_HEIGHT = 0.8

describe('textures', () => {
  it('are stored once however many parts show them, served as they came, and go with the last part', async () => {
    const box = await texturedBox()
    const first = await bring(box)
    // The second part only names them, as what is baked in the page does.
    const bigger = {
      ...box.mesh,
      primitives: box.mesh.primitives.map(each => ({ ...each, positions: each.positions.map(value => value * 2) })),
    }
    const second = await bring(box, await writePartGlb('Painted', bigger))
    const { db } = server.get()
    expect((await db.select({ hash: textures.hash }).from(textures)).map(({ hash }) => hash).toSorted()).toEqual(
      [...box.pictures.keys()].toSorted(),
    )
    for (const [name, { bytes, type }] of box.pictures) {
      const response = await fetch(`${server.get().url}/api/textures/${name}`)
      expect(response.headers.get('content-type')).toBe(type)
      expect(new Uint8Array(await response.arrayBuffer())).toEqual(bytes)
    }
    const stored = new Uint8Array(await (await fetch(`${server.get().url}/api/meshes/${first.meshHash}`)).arrayBuffer())
    expect(await readPartGlb(stored)).toEqual({ mesh: box.mesh, pictures: new Map() })
    expect((await call('DELETE', `/api/parts/${first.id}`)).status).toBe(204)
    expect(await db.select().from(textures)).toHaveLength(3)
    expect((await call('DELETE', `/api/parts/${second.id}`)).status).toBe(204)
    expect(await db.select().from(textures)).toHaveLength(0)
  })

  it('go into the file that is handed over, byte by byte, and the validator finds nothing', async () => {
    const box = await texturedBox(60)
    const part = await bring(box)
    const { id } = await newLevel()
    await save(id, 0, change(placed(part.id), placed(part.id, { translation: [3, 0, 0] })))
    const glb = new Uint8Array(await (await fetch(`${server.get().url}/api/levels/${id}/export.glb`)).arrayBuffer())
    const { issues } = await validateBytes(glb)
    // Tangents are left to whoever draws it, which the validator warns of.
    expect([
      issues.numErrors,
      ...issues.messages.filter(({ severity }) => severity === 1).map(({ code }) => code),
    ]).toEqual([0, 'MESH_PRIMITIVE_GENERATED_TANGENT_SPACE'])
    const read = await readPartGlb(glb)
    expect(read).toEqual({ mesh: box.mesh, pictures: box.pictures })
  })

  it('that are not there, or are no pictures, are refused and nothing is stored', async () => {
    const box = await texturedBox(80)
    const { db } = server.get()
    const before = await db.select({ hash: meshes.hash }).from(meshes)
    const post = async (glb: Uint8Array) =>
      error(
        'POST',
        `/api/parts?${new URLSearchParams({ id: freshId(), name: 'x', kind: 'prop', tags: '', inKit: 'true' })}`,
        glb,
      )
    expect(await post(await writePartGlb('x', box.mesh))).toMatchObject({ status: 415, field: 'body' })
    const broken = await writePartGlb('x', box.mesh, picture => ({
      ...box.pictures.get(picture)!,
      bytes: box.pictures.get(picture)!.bytes.slice(0, 40),
    }))
    expect(await post(broken)).toMatchObject({ status: 415, field: 'body' })
    expect(await post(await writePartGlb('x', box.mesh, () => 'http://127.0.0.1/secret.png'))).toMatchObject({
      status: 415,
      field: 'body',
    })
    expect(await db.select({ hash: meshes.hash }).from(meshes)).toEqual(before)
  })
})

describe('a part made of things', () => {
  it('has their mesh, and a workshop that no list shows', async () => {
    const part = await made([placed(CRATE), placed(CRATE, { translation: [0, CRATE_HEIGHT, 0] })])
    expect(heightOf(part)).toBeCloseTo(2 * CRATE_HEIGHT, 5)
    const { levelId, revision, madeOf } = await openPart(part.id)
    expect([revision, madeOf]).toEqual([0, 0])
    expect((await server.level(levelId)).partId).toBe(part.id)
    const listed = (await call('GET', '/api/levels')).json as { levels: { id: string }[] }
    expect(listed.levels.map(({ id }) => id)).not.toContain(levelId)
    expect(await error('DELETE', `/api/levels/${levelId}`)).toMatchObject({ status: 409, code: 'workshop' })
  })

  it('is made once however often it is sent', async () => {
    const id = freshId()
    const operations = [placed(CRATE)]
    const [first, second] = [await make(operations, id), await make(operations, id)]
    expect(second.json).toEqual(first.json)
    expect(await server.get().db.select().from(levels).where(eq(levels.partId, id))).toHaveLength(1)
  })

  it('changes its instances everywhere when it is made anew, and whatever it is inside of', async () => {
    const inner = await made([placed(CRATE)])
    const outer = await made([placed(inner.id), placed(inner.id, { translation: [2, 0, 0] })])
    const outermost = await made([placed(outer.id, { scale: [1, 2, 1] })])
    const other = await made([placed(CRATE)])
    const { levelId } = await openPart(inner.id)
    await save(levelId, 0, change(placed(CRATE, { translation: [0, CRATE_HEIGHT, 0] })))
    expect(heightOf(await partOf(inner.id))).toBeCloseTo(CRATE_HEIGHT, 5)
    expect(await remake(inner.id)).toEqual([inner.id, outer.id, outermost.id])
    expect(heightOf(await partOf(inner.id))).toBeCloseTo(2 * CRATE_HEIGHT, 5)
    expect(heightOf(await partOf(outer.id))).toBeCloseTo(2 * CRATE_HEIGHT, 5)
    expect(heightOf(await partOf(outermost.id))).toBeCloseTo(4 * CRATE_HEIGHT, 5)
    expect(await partOf(other.id)).toEqual(other)
    expect((await openPart(inner.id)).madeOf).toBe(1)
    // The mesh that was there before is gone: nothing shows it.
    expect(await server.get().db.select().from(meshes).where(eq(meshes.hash, outermost.meshHash))).toHaveLength(0)
  })

  it('can be opened when it came as a mesh, and keeps its textures when it is made anew', async () => {
    const box = await texturedBox(100)
    const part = await bring(box)
    const { levelId } = await openPart(part.id)
    expect(await openPart(part.id)).toEqual({ levelId, revision: 0, madeOf: 0 })
    await save(levelId, 0, change(placed(CRATE, { translation: [0, 4, 0] })))
    expect(await remake(part.id)).toEqual([part.id])
    const changed = await partOf(part.id)
    expect(changed.boundsMax[1]).toBeCloseTo(4.8, 5)
    const stored = new Uint8Array(
      await (await fetch(`${server.get().url}/api/meshes/${changed.meshHash}`)).arrayBuffer(),
    )
    expect((await readPartGlb(stored)).mesh.primitives.find(({ material }) => material.textures)).toEqual(
      box.mesh.primitives[0],
    )
  })

  it('cannot come to be inside itself, by no way round', async () => {
    const inner = await made([placed(CRATE)])
    const outer = await made([placed(inner.id)])
    const [a, b] = [await openPart(inner.id), await openPart(outer.id)]
    const into = (levelId: string, partId: string) =>
      error('POST', `/api/levels/${levelId}/changes`, { baseRevision: 0, changes: [change(placed(partId))] })
    expect(await into(a.levelId, outer.id)).toMatchObject({ status: 422, code: 'cycle', field: 'changes' })
    expect(await into(a.levelId, inner.id)).toMatchObject({ status: 422, code: 'cycle' })
    expect(await into(b.levelId, outer.id)).toMatchObject({ status: 422, code: 'cycle' })
    // Two at once that each put the other in: one of them is refused.
    const [one, two] = [await made([placed(CRATE)]), await made([placed(CRATE)])]
    const [workshopOne, workshopTwo] = [await openPart(one.id), await openPart(two.id)]
    const answers = await Promise.all(
      [
        [workshopOne, two],
        [workshopTwo, one],
      ].map(([workshop, part]) =>
        call('POST', `/api/levels/${(workshop as typeof workshopOne).levelId}/changes`, {
          baseRevision: 0,
          changes: [change(placed((part as Part).id))],
        }),
      ),
    )
    expect(answers.map(({ status }) => status).toSorted()).toEqual([200, 422])
  })

  it('says where it is used, and goes with its workshop when it is not', async () => {
    const inner = await made([placed(CRATE)])
    const outer = await made([placed(inner.id), placed(inner.id)])
    const { id } = await newLevel()
    const uses = [placed(inner.id), placed(inner.id), placed(inner.id)]
    await save(id, 0, change(...uses))
    expect(usesSchema.parse((await call('GET', `/api/parts/${inner.id}/uses`)).json)).toEqual({
      levels: [{ id, name: 'Test level', placements: 3 }],
      parts: [{ id: outer.id, name: 'Stall', placements: 2 }],
    })
    expect(await error('DELETE', `/api/parts/${inner.id}`)).toMatchObject({ status: 409, code: 'in-use' })
    const { levelId } = await openPart(outer.id)
    expect((await call('DELETE', `/api/parts/${outer.id}`)).status).toBe(204)
    expect((await call('GET', `/api/levels/${levelId}`)).status).toBe(404)
    await save(id, 1, change(...uses.map((operation): Operation => ({ do: 'remove', id: operation.id }))))
    expect((await call('DELETE', `/api/parts/${inner.id}`)).status).toBe(204)
  })

  it('has a copy of its own that later changes of it do not reach', async () => {
    const part = await made([placed(CRATE)])
    const copyId = freshId()
    const copy = partSchema.parse(
      (await call('POST', `/api/parts/${part.id}/copy`, { id: copyId, name: 'Stall, other', inKit: true })).json,
    )
    expect(copy).toMatchObject({ id: copyId, name: 'Stall, other', meshHash: part.meshHash })
    const { levelId } = await openPart(part.id)
    await save(levelId, 0, change(placed(CRATE, { translation: [0, 5, 0] })))
    expect(await remake(part.id)).toEqual([part.id])
    expect(await partOf(copyId)).toEqual(copy)
    expect((await server.level((await openPart(copyId)).levelId)).placements).toHaveLength(1)
    expect(
      (await call('POST', `/api/parts/${part.id}/copy`, { id: copyId, name: 'Stall, other', inKit: true })).json,
    ).toEqual(copy)
  })

  it('is refused with the reason when it would be nothing, and nothing is left of it', async () => {
    const { db } = server.get()
    const before = [await db.$count(parts), await db.$count(levels)]
    const refusal = async (operations: unknown[]) => {
      const { status, json } = await call('POST', '/api/parts/made', {
        id: freshId(),
        name: 'x',
        kit: 'Market',
        kind: 'prop',
        tags: [],
        inKit: true,
        operations,
      })
      return { status, ...(json as { error: { code: string; field: string } }).error }
    }
    expect(await refusal([newGroup().make])).toMatchObject({ status: 422, code: 'no-mesh', field: 'operations' })
    expect(await refusal([placed(freshId())])).toMatchObject({
      status: 422,
      code: 'unknown-part',
      field: 'operations.0.fields.partId',
    })
    expect(await refusal([placed(CRATE, { parentId: freshId() })])).toMatchObject({ status: 422, code: 'missing' })
    expect(await refusal([])).toMatchObject({ status: 422, field: 'operations' })
    expect(await refusal([placed(CRATE, { hidden: true })])).toMatchObject({ status: 422, code: 'no-mesh' })
    expect(await error('POST', `/api/parts/${CRATE}/remake`, {})).toMatchObject({
      status: 422,
      code: 'no-workshop',
      field: 'id',
    })
    expect(await error('POST', `/api/parts/${freshId()}/workshop`, {})).toMatchObject({ status: 404 })
    expect([await db.$count(parts), await db.$count(levels)]).toEqual(before)
  })
})

describe('a file that is looked at before it is stored', () => {
  const check = async (bytes: Uint8Array) => {
    const response = await fetch(`${server.get().url}/api/parts/check`, {
      method: 'POST',
      headers: { 'content-type': 'model/gltf-binary' },
      body: bytes as Uint8Array<ArrayBuffer>,
    })
    return checkedFileSchema.parse(await response.json())
  }

  it('is told of by the Khronos validator, with where in it, and nothing is stored', async () => {
    const { db } = server.get()
    const before = await db.$count(meshes)
    for (const file of ['bollards-cm-z-up', 'sign-textured', 'net-float-compressed']) {
      expect((await check(new Uint8Array(await readFile(`public/samples/${file}.glb`)))).errorCount, file).toBe(0)
    }
    const good = new Uint8Array(await readFile('public/samples/bollards-cm-z-up.glb'))
    const text = new TextDecoder('latin1').decode(good)
    const broken = Uint8Array.from(text.replace('"POSITION":0', '"POSITION":2'), letter => letter.charCodeAt(0))
    const { errors, errorCount } = await check(broken)
    expect(errorCount).toBeGreaterThan(0)
    expect(errors.some(({ pointer }) => pointer?.startsWith('/meshes/0/primitives/0'))).toBe(true)
    expect((await check(good.slice(0, 300))).errorCount).toBeGreaterThan(0)
    expect(await db.$count(meshes)).toBe(before)
  })
})

describe('a mesh at a distance', () => {
  it('has simpler ones with their errors, made once and gone with it; none where it is small already', async () => {
    const part = await made([placed(CRATE), placed(demoId('part/Barrel'), { translation: [1, 0, 0] })])
    const ask = async (hash: string) => fetch(`${server.get().url}/api/meshes/${hash}/steps`)
    const steps = await readStepsGlb(new Uint8Array(await (await ask(part.meshHash)).arrayBuffer()))
    expect(steps.length).toBeGreaterThanOrEqual(2)
    const counts = [part.triangles, ...steps.map(({ mesh }) => triangleCount(mesh))]
    expect(counts).toEqual(counts.toSorted((a, b) => b - a))
    expect(counts.at(-1)!).toBeLessThan(part.triangles * 0.12)
    expect(steps.every(({ error: off }, i) => off > 0 && off < 0.4 && off >= (steps[i - 1]?.error ?? 0))).toBe(true)
    const { db } = server.get()
    expect(await db.select().from(meshSteps).where(eq(meshSteps.meshHash, part.meshHash))).toHaveLength(1)
    expect((await call('DELETE', `/api/parts/${part.id}`)).status).toBe(204)
    expect(await db.select().from(meshSteps).where(eq(meshSteps.meshHash, part.meshHash))).toHaveLength(0)
    const { mesh } = testSolid(new BoxGeometry(1, 1, 1))
    const small = await bring({ mesh, pictures: new Map() })
    expect((await ask(small.meshHash)).status).toBe(204)
    expect((await ask('0'.repeat(64))).status).toBe(404)
  })
})

describe('an entry of the kit', () => {
  it('what stands for a mesh at a distance is not kept if the mesh is gone by the time it is made', async () => {
    const { db } = server.get()
    const gone = 'f'.repeat(64)
    await keepSteps(db, gone, Uint8Array.of(1, 2, 3))
    expect(await db.select().from(meshSteps).where(eq(meshSteps.meshHash, gone))).toEqual([])
  })

  it('may be of several parts, all of which are there, and may be changed and taken apart', async () => {
    const id = freshId()
    const entry = { name: 'Goods', kit: 'Own parts', by: 'random', parts: [CRATE, demoId('part/Barrel')] }
    expect((await call('PUT', `/api/entries/${id}`, entry)).json).toEqual({ id, ...entry })
    expect((await call('PUT', `/api/entries/${id}`, { ...entry, by: 'turn' })).status).toBe(200)
    const listed = (await call('GET', '/api/kit')).json as { entries: object[] }
    expect(listed.entries).toEqual([{ id, ...entry, by: 'turn' }])
    expect(await error('PUT', `/api/entries/${freshId()}`, { ...entry, parts: [CRATE, freshId()] })).toMatchObject({
      status: 422,
      field: 'parts',
    })
    expect(await error('PUT', `/api/entries/${freshId()}`, { ...entry, parts: [CRATE] })).toMatchObject({
      status: 422,
      field: 'parts',
    })
    expect((await call('DELETE', `/api/entries/${id}`)).status).toBe(204)
    expect(await error('DELETE', `/api/entries/${id}`)).toMatchObject({ status: 404 })
  })

  it('has a name, tags, a kit and sockets that can be changed, and a picture that goes when its mesh does', async () => {
    const part = await made([placed(CRATE)])
    const sockets = [{ name: 'left', kind: 'rail', at: [0.4, 0, 0], direction: [1, 0, 0], up: [0, 1, 0] }]
    const patched = (
      await call('PATCH', `/api/parts/${part.id}`, { name: 'Stall, other', kit: 'Market', tags: ['x'], sockets })
    ).json
    expect(patched).toEqual({ ...part, name: 'Stall, other', kit: 'Market', tags: ['x'], sockets })
    expect(
      await error('PATCH', `/api/parts/${part.id}`, { sockets: [{ ...sockets[0], up: [1, 0, 0] }] }),
    ).toMatchObject({ status: 422, field: 'sockets.0.up' })
    const picture = await testPicture('image/png', 9)
    const put = (bytes: Uint8Array) => call('PUT', `/api/parts/${part.id}/picture`, bytes)
    expect((await put(picture.bytes)).status).toBe(204)
    expect((await partOf(part.id)).hasPicture).toBe(true)
    expect(
      new Uint8Array(await (await fetch(`${server.get().url}/api/parts/${part.id}/picture`)).arrayBuffer()),
    ).toEqual(picture.bytes)
    expect((await put(new Uint8Array([1, 2, 3]))).status).toBe(415)
    const { levelId } = await openPart(part.id)
    await save(levelId, 0, change(placed(CRATE, { translation: [0, 2, 0] })))
    await remake(part.id)
    expect(await partOf(part.id)).toMatchObject({ hasPicture: false, sockets })
  })
})
