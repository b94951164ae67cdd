import { describe, expect, it } from 'vitest'
import { levelOfBoxes, testId } from '../../tests/support'
import { applyChange } from '../level/change'
import type { PointOn } from '../level/fields'
import type { Measure } from '../level/schema'
import { copyId } from '../scene/copy-id'
import { setTape } from '../measure/set-tape'
import { withRelations } from './keep'
import { keptOfTape, tapeOffers } from './tape'

const { level, index } = levelOfBoxes([
  { name: 'Post', size: [1, 1, 1] },
  { name: 'Box', size: [1, 1, 1], translation: [3, 0, 4] },
  { name: 'Lid', size: [1, 1, 1], parentId: testId(2), translation: [0, 1, 0] },
])
const end = (on: string | null, point: [number, number, number] = [0, 0, 0]): PointOn => ({ at: point, on, point })
const tape = (...ends: PointOn[]): Measure => ({
  id: testId(50),
  name: 'Tape 1',
  kind: 'tape',
  ends,
  sides: [],
  connected: false,
  order: 0,
  hidden: false,
})

describe('a tape that is kept', () => {
  it('drives the thing at its last end: straight, or along an axis, and takes a typed length', () => {
    const kept = tape(end(testId(1)), end(testId(2)))
    const offers = tapeOffers(level, kept)
    if (typeof offers === 'string') throw new Error(offers)
    expect(offers.map(({ rule }) => (rule.kind === 'apart' ? [rule.along, rule.distance] : null))).toEqual([
      [null, 5],
      [[1, 0, 0], 3],
      [[0, 1, 0], 0],
      [[0, 0, 1], 4],
    ])
    expect(keptOfTape(level, kept)).toBeNull()
    applyChange(level, [{ do: 'put-relation', id: testId(60), fields: offers[0]! }])
    expect(keptOfTape(level, kept)?.id).toBe(testId(60))
    const moved = withRelations(level, index, [{ do: 'put', id: testId(1), fields: { translation: [-3, 0, -4] } }])
    expect(moved.operations.slice(1)).toHaveLength(1)
    expect(moved.operations[1]).toMatchObject({ do: 'put', id: testId(2) })
    const [follows] = moved.operations.slice(1)
    const { translation } = (follows as { fields: { translation: number[] } }).fields
    for (const each of translation) expect(each).toBeCloseTo(0, 12)
    const where = { level, matrixOf: (id: string) => level.worldMatrix(id) }
    const set = setTape(kept, where, { number: 0, metres: 10, along: 'line', first: false })
    const typed = withRelations(level, index, set.operations).operations
    expect(typed.find(({ do: what }) => what === 'put-relation')).toMatchObject({ fields: { rule: { distance: 10 } } })
  })

  it('says why it cannot be', () => {
    const [a, b] = [end(testId(1)), end(testId(2))]
    expect(tapeOffers(level, tape(a, end(null)))).toMatch(/on nothing/)
    expect(tapeOffers(level, tape(end(testId(3)), b))).toMatch(/Both ends/)
    expect(tapeOffers(level, tape(b, end(copyId(testId(1), '0'))))).toMatch(/on nothing|copy/)
    expect(tapeOffers(level, { ...tape(a, b), kind: 'height' })).toMatch(/Only the length/)
    // From a point in space it may go out.
    expect(tapeOffers(level, tape(end(null), b))).toHaveLength(4)
  })
})
