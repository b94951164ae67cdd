import fc from 'fast-check'
import { expect, it } from 'vitest'
import { anyTree, testId } from '../../tests/support'
import { lightOwn } from './create'
import { Level, recordsOf } from './level'
import { packLevel } from './pack'
import type { Placement } from './schema'
import { unpackLevel } from './unpack'

const LAYER = { id: testId(900), name: 'Quay', color: '#123456', visible: true, locked: false, order: 0.1 }

it('packs a level so that it is unpacked as it was, to the last bit', () => {
  fc.assert(
    fc.property(
      anyTree(30),
      fc.array(
        fc.constantFrom<Partial<Placement>>(
          {},
          { hidden: true },
          { locked: true, layerId: LAYER.id },
          { partId: testId(7), kind: 'part' },
          { kind: 'light', own: lightOwn({ light: 'point' }) },
        ),
      ),
      (tree, more) => {
        const placements = tree.map((placement, i): Placement => ({ ...placement, ...more[i] }))
        const level = new Level(placements, { layers: [LAYER] })
        const bytes = Buffer.concat([...packLevel({ name: 'Quay' }, { placements, records: recordsOf(level) })])
        expect(unpackLevel(bytes)).toEqual({ placements, records: recordsOf(level), unreadable: [] })
      },
    ),
  )
})

it('packs more placements than fit into one item, and none', () => {
  const many = Array.from(
    { length: 10_003 },
    (_, i): Placement => ({
      id: testId(i + 1),
      parentId: null,
      order: i,
      name: `Post ${i}`,
      kind: 'group',
      partId: null,
      blockId: null,
      translation: [i, 0, 1 / 3],
      rotation: [0, 0, 0, 1],
      scale: [1, 1, 1],
      pivot: [0, 0, 0],
      hidden: false,
      locked: false,
      layerId: null,
      own: {},
    }),
  )
  const none = recordsOf(new Level())
  expect(unpackLevel(Buffer.concat([...packLevel({}, { placements: many, records: none })])).placements).toEqual(many)
  expect(unpackLevel(Buffer.concat([...packLevel({}, { placements: [], records: none })])).placements).toEqual([])
})
