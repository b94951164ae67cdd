import { v7 } from 'uuid'
import { describe, expect, it } from 'vitest'
import { cameraOwn, createPlacement, lightOwn, markerOwn } from '../../core/level/create'
import type { Part } from '../../core/level/part'
import type { Operation, Placement } from '../../core/level/schema'
import { FIRST_SKIES } from '../../core/level/sky'
import { demoId } from '../../demo/kit'
import { change, useServer } from './support'

const server = useServer()
const put = (fields: Pick<Placement, 'kind'> & Partial<Placement>): Operation => {
  const { id, ...rest } = createPlacement({ id: v7(), name: 'Thing', ...fields })
  return { do: 'put', id, fields: rest }
}

describe('what a level is lit by', () => {
  it('is saved for day and night, copied with the level, and taken out again', async () => {
    const { id } = await server.newLevel()
    const night = v7()
    const fields = { ...FIRST_SKIES.night, ambient: 3, exposure: 2.5 }
    await server.save(id, 0, change({ do: 'put-sky', id: night, fields }))
    const copy = (await server.call('POST', '/api/levels', { name: 'Copy', from: id })).json as { id: string }
    for (const each of [id, copy.id])
      expect(await server.level(each)).toMatchObject({ skies: [{ id: night, ...fields }] })
    await server.save(id, 1, change({ do: 'remove-sky', id: night }))
    expect(await server.level(id)).toMatchObject({ skies: [] })
  })

  it('is refused with the field where it makes no sense, and so are cameras, lights and markers; nothing is written', async () => {
    const { id } = await server.newLevel()
    const light = (given: object): Operation =>
      put({ kind: 'light', own: { ...lightOwn({ light: 'spot' }), ...given } as Placement['own'] })
    const camera = (given: object): Operation =>
      put({ kind: 'camera', own: { ...cameraOwn(), ...given } as Placement['own'] })
    const marker = (given: object): Operation =>
      put({ kind: 'marker', own: { ...markerOwn('walk'), ...given } as Placement['own'] })
    const place = { latitude: 52, longitude: 5, time: '2026-06-21T12:00', zone: 2, north: 0 }
    const cases: [Operation, string][] = [
      [{ do: 'put-sky', id: v7(), fields: { ...FIRST_SKIES.day, exposure: 99 } }, 'exposure'],
      [{ do: 'put-sky', id: v7(), fields: { ...FIRST_SKIES.day, ambient: -1 } }, 'ambient'],
      [camera({ fieldOfView: 0 }), 'fieldOfView'],
      [camera({ fieldOfView: 180 }), 'fieldOfView'],
      [camera({ near: 5, far: 2 }), 'far'],
      [camera({ near: 0 }), 'near'],
      [camera({ aspect: 0 }), 'aspect'],
      [camera({ cut: { order: 0, seconds: 0 } }), 'seconds'],
      [light({ intensity: -1 }), 'intensity'],
      [light({ range: -1 }), 'range'],
      [light({ innerCone: 40, outerCone: 30 }), 'innerCone'],
      [light({ light: 'area', width: 0 }), 'width'],
      [light({ temperature: 100 }), 'temperature'],
      [light({ place: { ...place, latitude: 91 } }), 'latitude'],
      [light({ place: { ...place, time: '2026-02-31T12:00' } }), 'time'],
      [light({ aim: { at: [0, 0, 0], on: 'x', point: [0, 0, 0] } }), 'on'],
      [marker({ points: [[0, 0, 0]] }), 'points'],
      [marker({ width: 0 }), 'width'],
      [
        marker({
          fields: [
            { key: 'a', type: 'text', value: '' },
            { key: 'a', type: 'number', value: 1 },
          ],
        }),
        'fields',
      ],
      [marker({ fields: [{ key: 'a', type: 'number', value: 'x' }] }), 'value'],
    ]
    for (const [operation, field] of cases) {
      const { status, field: where } = await server.error('POST', `/api/levels/${id}/changes`, {
        baseRevision: 0,
        changes: [change(operation)],
      })
      expect([400, 422], field).toContain(status)
      expect(where, field).toContain(field)
    }
    expect(await server.level(id)).toMatchObject({ revision: 0, placements: [], skies: [] })
  })

  it('what was saved before all fields were there is taken as it was, the others as they are at first', async () => {
    const { id } = await server.newLevel()
    const old = [
      put({ kind: 'camera', own: { fieldOfView: 44 } as Placement['own'] }),
      put({ kind: 'light', own: { light: 'point', color: '#ffffff', intensity: 4, range: 3 } as Placement['own'] }),
      put({ kind: 'marker', own: { marker: 'volume', text: 'x' } as Placement['own'] }),
    ]
    await server.save(id, 0, change(...old))
    const { placements } = await server.level(id)
    expect(placements.map(({ own }) => own)).toEqual(
      expect.arrayContaining([
        { ...cameraOwn(), fieldOfView: 44 },
        { ...lightOwn({ light: 'point' }), color: '#ffffff', intensity: 4, range: 3 },
        { ...markerOwn('volume'), text: 'x' },
      ]),
    )
  })
})

describe('lamps of parts', () => {
  it('are the lights in what a part is made of; a part without any has none', async () => {
    const { parts } = (await server.call('GET', '/api/kit')).json as { parts: Part[] }
    expect(parts.filter(({ lamps }) => lamps.length > 0).map(({ name }) => name)).toEqual(['Lantern post'])
    const made = await server.call('POST', '/api/parts/made', {
      id: v7(),
      name: 'Lamp on a crate',
      kind: 'prop',
      tags: [],
      inKit: true,
      kit: 'Own parts',
      operations: [
        put({ kind: 'part', partId: demoId('part/Crate') }),
        put({ kind: 'light', own: lightOwn({ light: 'point', intensity: 30 }), translation: [0, 1.2, 0] }),
        put({ kind: 'part', partId: demoId('part/Lantern post'), translation: [2, 0, 0], own: { lamp: 0.5 } }),
        put({ kind: 'light', own: lightOwn({ light: 'sun' }) }),
      ],
    })
    const { lamps } = made.json as Part
    expect(lamps.map(({ at, light }) => [at, light.light, light.intensity])).toEqual([
      [[0, 1.2, 0], 'point', 30],
      [[2, 2.85, 0], 'point', expect.closeTo(40, 0)],
    ])
  })
})
