import { sql } from 'drizzle-orm'
import { unzipSync } from 'fflate'
import { validateBytes } from 'gltf-validator'
import { expect, it } from 'vitest'
import { HAND_OVER_ROUTES, ROUTES } from '../../core/api/routes'
import { checkAnswerSchema } from '../../core/api/schema'
import { reportSchema } from '../../core/formats/formats'
import { createPlacement } from '../../core/level/create'
import { demoId } from '../../demo/kit'
import { change, freshId, put, useServer } from './support'

const server = useServer()

it.each([
  ['bounds that are no numbers', (id: string) => sql`update parts set max_x = 'NaN' where id = ${id}`],
  ['bounds beyond the farthest', (id: string) => sql`update parts set max_x = 3e9 where id = ${id}`],
  [
    'a mesh that is none',
    (id: string) =>
      sql`update meshes set glb = 'no mesh'::bytea where hash = (select mesh_hash from parts where id = ${id})`,
  ],
])('a part with %s is as if it were not there, in everything that is done with its levels', async (_, spoil) => {
  const [partId, id] = [freshId(), (await server.newLevel()).id]
  // A mesh of its own: a crate of another size.
  const crate = createPlacement({
    id: freshId(),
    name: 'Crate',
    kind: 'part',
    partId: demoId('part/Crate'),
    scale: [1 + Math.random(), 1, 1],
  })
  const { id: crateId, ...fields } = crate
  expect(
    (
      await server.call('POST', '/api/parts/made', {
        id: partId,
        name: 'Spoilt',
        kind: 'prop',
        tags: [],
        inKit: true,
        kit: 'Trial',
        operations: [{ do: 'put', id: crateId, fields }],
      })
    ).status,
  ).toBe(200)
  const { id: ownId, ...own } = createPlacement({ id: freshId(), name: 'Shows it', kind: 'part', partId })
  await server.save(id, 0, change(put(ownId, own)))
  await server.get().db.execute(spoil(partId))
  const { meshHash } = (await server.call('GET', `/api/parts/${partId}`)).json as { meshHash: string }
  expect((await server.call('GET', `/api/meshes/${meshHash}/steps`)).status).toBeOneOf([200, 204])
  expect((await server.call('GET', `/api/levels/${id}`)).status).toBe(200)
  expect(checkAnswerSchema.parse((await server.call('GET', `/api/levels/${id}/check`)).json).looked).toBe(1)
  for (const [format, route] of Object.entries(HAND_OVER_ROUTES)) {
    const response = await fetch(server.get().url + ROUTES[route].path.replace(':id', id))
    const bytes = new Uint8Array(await response.arrayBuffer())
    expect([format, response.status, response.ok ? '' : new TextDecoder().decode(bytes)]).toEqual([format, 200, ''])
    if (format === 'glb') expect((await validateBytes(bytes)).issues.numErrors).toBe(0)
    if (format === 'level') expect(new TextDecoder().decode(unzipSync(bytes)['level.json'])).toContain('Shows it')
  }
  const { remarks } = reportSchema.parse(
    JSON.parse(
      decodeURIComponent((await fetch(`${server.get().url}/api/levels/${id}/export.glb`)).headers.get('x-report')!),
    ),
  )
  expect(remarks.join()).toContain('"Spoilt"')
})
