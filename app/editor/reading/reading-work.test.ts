import { expect, it } from 'vitest'
import { packHead, packItem } from '~~/core/level/packed'
import { readingWork } from './reading-work'

const summary = {
  id: '00000000-0000-7000-8000-000000000001',
  name: 'Yard',
  revision: 3,
  placementCount: 0,
  partId: null,
  hasPicture: false,
  createdAt: '2026-11-30T00:00:00.000Z',
  changedAt: '2026-11-30T00:00:00.000Z',
}
const records = {
  layers: [],
  stations: [],
  blocks: [],
  measures: [],
  limits: [],
  exemptions: [],
  skies: [],
  threads: [],
  presets: [],
  recipes: [],
  answers: [],
  relations: [],
}
const none = new Uint8Array(0)
const empty = packItem({
  count: 0,
  ids: none,
  parents: none,
  parts: none,
  blocks: none,
  layers: none,
  kinds: none,
  flags: none,
  numbers: Array.from({ length: 14 }, () => new Float64Array(0)),
  names: '[]',
  own: '[]',
  ownOf: new Uint32Array(0),
})

it('has read a level when all that was told of it has arrived, not before', async () => {
  const arrived: string[] = []
  const later = (what: string) => new Promise<void>(resolve => setTimeout(() => resolve(void arrived.push(what)), 20))
  const read = readingWork().read(
    Buffer.concat([packHead({ ...summary, ...records }), empty, empty]),
    head => {
      expect(head).toEqual({ said: summary, records })
      return later('head')
    },
    () => later('placements'),
  )
  expect(await read).toEqual([])
  expect(arrived).toEqual(['head', 'placements', 'placements'])
})

it('refuses a head that makes no sense', async () => {
  await expect(
    readingWork().read(
      packHead({ ...summary, ...records, layers: [{ name: 'Without an id' }] }),
      () => {},
      () => {},
    ),
  ).rejects.toThrow()
})
