import { eq } from 'drizzle-orm'
import { validateBytes } from 'gltf-validator'
import sharp from 'sharp'
import { describe, expect, it } from 'vitest'
import { kitSchema, levelSummarySchema, listedLevelSchema } from '../../core/api/schema'
import { STARTING_POINT_NAMES } from '../../core/api/starting-points'
import { readPartGlb } from '../../core/formats/part-glb'
import { triangleCount } from '../../core/mesh/mesh'
import { levels, placements } from '../../server/db/schema'
import { MADE } from '../../demo/starting-points'
import { change, freshId, newGroup, useServer } from './support'

const server = useServer()
const { call, error } = server

describe('levels', () => {
  it('start with Lantern Quay, with a picture', async () => {
    const { json } = await call('GET', '/api/levels')
    const [demo] = (json as { levels: unknown[] }).levels.map(entry => listedLevelSchema.parse(entry))
    expect(demo).toMatchObject({ name: 'Lantern Quay', revision: 0, hasPicture: true })
    const picture = await call('GET', `/api/levels/${demo!.id}/picture`)
    expect(picture.headers.get('content-type')).toBe('image/webp')
    expect((await server.level(demo!.id)).placements).toHaveLength(demo!.placementCount)
  })

  it('are made, renamed, duplicated, deleted and brought back', async () => {
    const made = await server.newLevel('demo')
    expect((await call('PATCH', `/api/levels/${made.id}`, { name: 'Mill Lane' })).json).toMatchObject({
      name: 'Mill Lane',
    })
    const copy = levelSummarySchema.parse(
      (await call('POST', '/api/levels', { name: 'Mill Lane, copy', from: made.id })).json,
    )
    const [original, duplicate] = [await server.level(made.id), await server.level(copy.id)]
    expect(duplicate.placements).toEqual(original.placements)
    expect((await call('DELETE', `/api/levels/${made.id}`)).status).toBe(204)
    expect((await error('GET', `/api/levels/${made.id}`)).status).toBe(404)
    expect(
      (
        await error('POST', `/api/levels/${made.id}/changes`, {
          baseRevision: 0,
          changes: [{ id: freshId(), label: 'x', author: 'x', operations: [{ do: 'remove', id: freshId() }] }],
        })
      ).status,
    ).toBe(404)
    expect((await call('PATCH', `/api/levels/${made.id}`, { deleted: false })).status).toBe(200)
    expect((await server.level(made.id)).placements).toEqual(original.placements)
  })

  it('keep their picture, and only pictures', async () => {
    const { id } = await server.newLevel()
    expect((await error('GET', `/api/levels/${id}/picture`)).status).toBe(404)
    const png = await sharp({ create: { width: 40, height: 25, channels: 3, background: '#0e6e6e' } })
      .png()
      .toBuffer()
    expect((await call('PUT', `/api/levels/${id}/picture`, png)).status).toBe(204)
    expect((await call('GET', `/api/levels/${id}/picture`)).headers.get('content-type')).toBe('image/png')
    // The signature of a PNG file (ISO/IEC 15948, 5.2) with nothing behind it, and a picture that is cut off.
    expect(
      await error(
        'PUT',
        `/api/levels/${id}/picture`,
        Uint8Array.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 1, 2, 3]),
      ),
    ).toMatchObject({ status: 415, field: 'body' })
    expect(await error('PUT', `/api/levels/${id}/picture`, png.subarray(0, 60))).toMatchObject({
      status: 415,
      field: 'body',
    })
    expect(await error('PUT', `/api/levels/${id}/picture`, '<svg onload="alert(1)"/>')).toMatchObject({
      status: 415,
      code: 'not-a-picture',
    })
    expect(await error('PUT', `/api/levels/${id}/picture`, new Uint8Array(3 * 1024 * 1024))).toMatchObject({
      status: 413,
      field: 'body',
    })
  })

  it('delete nothing of another level', async () => {
    const [one, two] = [await server.newLevel('demo'), await server.newLevel('demo')]
    await call('DELETE', `/api/levels/${one.id}`)
    await server
      .get()
      .db.update(levels)
      .set({ deletedAt: new Date(Date.now() - 40 * 86_400_000) })
      .where(eq(levels.id, one.id))
    const other = await server.newLevel()
    await call('DELETE', `/api/levels/${other.id}`)
    expect(await server.get().db.select().from(placements).where(eq(placements.levelId, one.id))).toEqual([])
    expect((await server.level(two.id)).placements.length).toBeGreaterThan(60)
  })
})

describe('the kit', () => {
  it('lists parts whose meshes can be fetched by their hash, once and for all', async () => {
    const { parts } = kitSchema.parse((await call('GET', '/api/kit')).json)
    expect(parts.length).toBeGreaterThanOrEqual(16)
    const crate = parts.find(part => part.name === 'Crate')!
    expect((await call('GET', `/api/parts/${crate.id}`)).json).toEqual(crate)
    const response = await fetch(`${server.get().url}/api/meshes/${crate.meshHash}`)
    expect(response.headers.get('cache-control')).toContain('immutable')
    expect(triangleCount((await readPartGlb(new Uint8Array(await response.arrayBuffer()))).mesh)).toBe(crate.triangles)
  })
})

describe('handing over', () => {
  it("gives a file with the level's name that the validator passes", async () => {
    const made = await server.newLevel('demo')
    await call('PATCH', `/api/levels/${made.id}`, { name: 'Nächtlicher "Kai"' })
    const response = await fetch(`${server.get().url}/api/levels/${made.id}/export.glb`)
    expect(response.headers.get('content-type')).toBe('model/gltf-binary')
    expect(response.headers.get('content-disposition')).toContain("filename*=UTF-8''N%C3%A4chtlicher%20%22Kai%22.glb")
    const { issues } = await validateBytes(new Uint8Array(await response.arrayBuffer()))
    expect([issues.numErrors, issues.numWarnings]).toEqual([0, 0])
  })

  it('are begun from what is made in code, with the parts that this needs', async () => {
    for (const from of STARTING_POINT_NAMES) {
      const { id, placementCount } = await server.newLevel(from)
      const { placements } = MADE[from]()
      expect(placementCount).toBe(placements.length)
      const rows = (await server.level(id)).placements
      expect(rows.map(({ name }) => name).toSorted()).toEqual(placements.map(({ name }) => name).toSorted())
    }
    expect(await server.error('POST', '/api/levels', { name: 'A', from: 'nowhere' })).toMatchObject({ status: 422 })
  })

  it('are tagged, put away and begun from; what makes no sense is refused and changes nothing', async () => {
    const { id } = await server.newLevel()
    const patch = (body: unknown) => server.call('PATCH', `/api/levels/${id}`, body)
    expect((await patch({ tags: ['night', 'water'], startingPoint: true })).json).toMatchObject({
      tags: ['night', 'water'],
      startingPoint: true,
      archivedAt: null,
    })
    expect((await patch({ archived: true })).json).toMatchObject({ archivedAt: expect.any(String) as string })
    for (const tags of [['a', 'a'], ['<b>'], ['a'.repeat(41)], Array.from({ length: 21 }, (_, i) => `t${i}`), ['']])
      expect((await patch({ tags })).status).toBe(422)
    expect((await patch({ archived: false })).json).toMatchObject({ tags: ['night', 'water'], archivedAt: null })
    const { json } = await server.call('GET', '/api/levels')
    expect((json as { levels: { id: string }[] }).levels.find(each => each.id === id)).toMatchObject({ lastBy: null })
  })

  it('have the picture of the latest state, whatever comes late', async () => {
    const { id } = await server.newLevel()
    await server.save(id, 0, change(newGroup().make), change(newGroup().make))
    const put = (revision: number, color: string) =>
      sharp({ create: { width: 8, height: 5, channels: 3, background: color } })
        .png()
        .toBuffer()
        .then(bytes => server.call('PUT', `/api/levels/${id}/picture?revision=${revision}`, new Uint8Array(bytes)))
    expect((await put(2, 'red')).status).toBe(204)
    expect((await put(1, 'blue')).status).toBe(204)
    expect(await server.level(id)).toMatchObject({ pictureRevision: 2, hasPicture: true })
  })
})
