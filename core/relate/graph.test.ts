import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { testId } from '../../tests/support'
import { bareView } from '../scene/level-view'
import { createPlacement } from '../level/create'
import type { Operation, Relation } from '../level/schema'
import { circleThrough, indexOf, inOrder, waitsFor } from './graph'
import { relationsRefused } from './refuse'

const relation = (held: number, ...by: number[]): Relation => ({
  id: testId(10_000 + held),
  held: testId(held),
  point: [0, 0, 0],
  holders: by.map(holder => ({ at: [0, 0, 0], on: testId(holder), point: [0, 0, 0] })),
  rule: { kind: 'between', share: 0.5, axes: [true, true, true] },
})
const none = () => null

/** Takes away again and again what waits for nothing (Kahn 1962), one thing at a time. */
function plainOrder(waits: ReadonlyMap<number, ReadonlySet<number>>): number[] {
  const left = new Map([...waits].map(([id, before]) => [id, new Set([...before].filter(each => waits.has(each)))]))
  const order: number[] = []
  for (let next; (next = [...left].find(([, before]) => before.size === 0)); ) {
    order.push(next[0])
    left.delete(next[0])
    for (const before of left.values()) before.delete(next[0])
  }
  return order
}

describe('the order in which things follow each other', () => {
  it('has each after all that it waits for, whatever they are named, and leaves out what waits for itself', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 12 })), { maxLength: 20 }),
        pairs => {
          const waits = new Map<number, Set<number>>()
          for (const [held, by] of pairs)
            if (held !== by) waits.set(held, (waits.get(held) ?? new Set<number>()).add(by))
          const { byHeld } = indexOf([...waits].map(([held, by]) => relation(held, ...by)))
          const { order, circle } = inOrder(byHeld.keys(), { byHeld, parentOf: none })
          const plain = plainOrder(waits)
          expect([...order].sort()).toEqual(plain.map(testId).sort())
          expect(circle).toEqual(
            [...waits.keys()]
              .filter(id => !plain.includes(id))
              .map(testId)
              .sort(),
          )
          for (const [i, id] of order.entries())
            for (const other of waitsFor(id, { byHeld, parentOf: none })) expect(order.indexOf(other)).toBeLessThan(i)
        },
      ),
    )
  })

  it('goes through ten thousand in a row, and finds the one that closes it', () => {
    const row = Array.from({ length: 10_000 }, (_, i) => relation(i + 1, i))
    const { byHeld } = indexOf(row)
    const hanging = { byHeld, parentOf: none }
    expect(inOrder(byHeld.keys(), hanging).order).toEqual(row.map(({ held }) => held))
    expect(circleThrough(testId(1), hanging)).toBeNull()
    const closed = indexOf([...row, { ...relation(0, 10_000), id: testId(1) }])
    expect(circleThrough(testId(0), { ...closed, parentOf: none })).toHaveLength(10_001)
  })

  it('is refused where a group, what hangs from something or an arrangement makes it a circle', () => {
    const thing = (number: number, parent?: number) =>
      createPlacement({
        id: testId(number),
        name: `Thing ${number}`,
        kind: 'group',
        parentId: parent === undefined ? null : testId(parent),
      })
    const level = bareView([thing(1), thing(2, 1), thing(3), thing(4, 3)], { relations: [relation(3, 2)] })
    const put = ({ id, ...fields }: Relation): Operation => ({ do: 'put-relation', id, fields })
    // The group follows what follows something in it; its child follows the group's own follower; a copy of either.
    expect(relationsRefused(level, [put(relation(1, 4))])).toContain('in a circle: Thing 1')
    expect(relationsRefused(level, [put(relation(2, 4))])).toContain('in a circle')
    expect(relationsRefused(level, [put(relation(1, 2))])).toContain('in a circle')
    const copy = { ...relation(1), holders: [{ at: [0, 0, 0], on: `${testId(3)}#0`, point: [0, 0, 0] }] } as Relation
    expect(relationsRefused(level, [put(copy)])).toContain('in a circle')
    expect(relationsRefused(level, [{ do: 'put', id: testId(1), fields: { parentId: testId(4) } }])).toContain(
      'in a circle',
    )
    expect(relationsRefused(level, [put(relation(4, 1))])).toBeNull()
    expect(relationsRefused(level, [put(relation(4, 99))])).toContain('only follow what is there')
  })
})
