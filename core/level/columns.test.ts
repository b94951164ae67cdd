import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { anyTree, testId } from '../../tests/support'
import { buffersOf, fromColumns, toColumns } from './columns'
import { lightOwn } from './create'
import { KIND_NAMES } from './kinds'
import type { Placement } from './schema'

const MORE: fc.Arbitrary<Partial<Placement>> = fc.record({
  kind: fc.constantFrom(...KIND_NAMES),
  name: fc.string(),
  hidden: fc.boolean(),
  locked: fc.boolean(),
  partId: fc.constantFrom(null, testId(7), testId(8)),
  blockId: fc.constantFrom(null, testId(9)),
  layerId: fc.constantFrom(null, testId(10)),
  own: fc.constantFrom<Placement['own'][]>({}, lightOwn({ light: 'point' }), lightOwn({ light: 'spot' })),
})
const anyPlacements = fc
  .tuple(anyTree(30), fc.array(MORE, { minLength: 30, maxLength: 30 }))
  .map(([tree, more]) => tree.map((placement, i) => ({ ...placement, ...more[i] })))

describe('placements by columns', () => {
  it('come back as they were, to the last bit, also from the other side of a thread', () => {
    fc.assert(
      fc.property(anyPlacements, placements => {
        const columns = toColumns(placements)
        const there = structuredClone(columns, { transfer: buffersOf(columns) })
        expect(fromColumns(there)).toEqual(placements)
        expect(columns.numbers.length).toBe(0)
      }),
    )
  })

  it('have what many have in common once', () => {
    const [partId, layerId] = [testId(7), testId(8)]
    const own = lightOwn({ light: 'point' })
    const { values } = toColumns(
      Array.from({ length: 100 }, (_, i) => ({ ...placementOf(i), partId, layerId, own: i % 2 === 0 ? own : {} })),
    )
    expect(values).toEqual([partId, layerId, own, {}])
  })
})

const placementOf = (i: number): Placement => ({
  id: testId(i),
  parentId: null,
  order: i,
  name: `Thing ${i}`,
  kind: 'group',
  partId: null,
  blockId: null,
  layerId: null,
  own: {},
  hidden: false,
  locked: false,
  translation: [0, 0, 0],
  rotation: [0, 0, 0, 1],
  scale: [1, 1, 1],
  pivot: [0, 0, 0],
})
