import { describe, expect, it } from 'vitest'
import { testId } from '../../tests/support'
import type { Relation } from '../level/schema'
import { copyId } from '../scene/copy-id'
import { soundRelations } from './sound'

const relation = (id: number, held: number, ...by: string[]): Relation => ({
  id: testId(700 + id),
  held: testId(held),
  point: [0, 0, 0],
  holders: by.map(on => ({ at: [0, 0, 0], on, point: [0, 0, 0] })),
  rule:
    by.length > 1
      ? { kind: 'between', share: 0.5, axes: [true, true, true] }
      : { kind: 'apart', along: null, distance: 1 },
})
const things = Array.from({ length: 9 }, (_, i) => ({ id: testId(i + 1), parentId: i === 8 ? testId(1) : null }))
const sound = (...relations: Relation[]) => {
  const { sound: kept, ...counts } = soundRelations(things, relations)
  return { kept: kept.map(({ held }) => Number.parseInt(held.slice(-4), 16)), ...counts }
}

describe('relations of a file', () => {
  it('are taken but for those of and to what is not in it', () => {
    const all = [
      relation(1, 2, testId(1)),
      relation(2, 3, testId(40)),
      relation(3, 41, testId(1)),
      relation(4, 4, testId(1), testId(42)),
      relation(5, 5, copyId(testId(6), '3')),
      relation(6, 6, copyId(testId(43), '3')),
    ]
    expect(sound(...all)).toEqual({ kept: [2, 5], missing: 4, circling: 0 })
    expect(sound()).toEqual({ kept: [], missing: 0, circling: 0 })
  })

  it('and but for those that make a circle, also through what a thing hangs from; what only hangs on one stays', () => {
    // 2 and 3 follow each other, 4 follows 3, 5 is followed by 2; 1 follows 9, which hangs from it.
    const all = [
      relation(1, 2, testId(3), testId(5)),
      relation(2, 3, testId(2)),
      relation(3, 4, testId(3)),
      relation(4, 5, testId(6)),
      relation(5, 1, testId(9)),
    ]
    expect(sound(...all)).toEqual({ kept: [4, 5], missing: 0, circling: 3 })
  })

  it('are looked at to an end also where things hang from themselves, which is refused elsewhere', () => {
    const loop = [
      { id: testId(1), parentId: testId(2) },
      { id: testId(2), parentId: testId(1) },
      { id: testId(3), parentId: testId(1) },
    ]
    expect(soundRelations(loop, [relation(1, 3, testId(2))]).missing).toBe(0)
  })
})
