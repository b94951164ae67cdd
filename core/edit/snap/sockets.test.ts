import fc from 'fast-check'
import { Box3, BoxGeometry, Matrix4, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Socket } from '../../level/part'
import { socketSchema } from '../../level/part'
import { applyChange } from '../../level/change'
import { LevelIndex } from '../../scene/level-index'
import type { LevelView } from '../../scene/level-view'
import { bareView } from '../../scene/level-view'
import { aimAt, anyQuat, anyScale, anyVec3, testId, testPlacement, testSolid } from '../../../tests/support'
import { freeSocketsIn, joinedOff, joinOperations, joiningMatrix, nearestJoin, socketsAt } from './sockets'

const end = (side: 1 | -1, kind = 'rail'): Socket => ({
  name: side < 0 ? 'left' : 'right',
  at: [side, 0.25, 0],
  direction: [side, 0, 0],
  up: [0, 1, 0],
  kind,
})
const rail = [end(-1), end(1)]
const solid = testSolid(new BoxGeometry(2, 1, 0.1))
const level = (...given: Parameters<typeof testPlacement>[1][]) =>
  bareView(given.map((fields, i) => testPlacement(i + 1, { kind: 'part', partId: testId(9), ...fields })))
const socketsOfThing = (of: LevelView, id: string) => socketsAt(id, rail, of.worldMatrix(id))

describe('ends that fit', () => {
  it('coincide, point against each other and stand the same way up, however both are turned and whatever their sizes', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        anyScale,
        anyVec3,
        anyQuat,
        anyScale,
        fc.nat(1),
        fc.nat(1),
        (t1, r1, s1, t2, r2, s2, a, b) => {
          const both = level({ translation: t1, rotation: r1, scale: s1 }, { translation: t2, rotation: r2, scale: s2 })
          const [own, other] = [socketsOfThing(both, testId(1))[a]!, socketsOfThing(both, testId(2))[b]!]
          const before = both.worldMatrix(testId(1)).determinant()
          applyChange(both, joinOperations(both, [testId(1)], { own, other }))
          const after = socketsOfThing(both, testId(1))[a]!
          expect(after.point.distanceTo(other.point)).toBeLessThan(1e-9)
          expect(after.direction.dot(other.direction)).toBeCloseTo(-1, 9)
          expect(after.up.dot(other.up)).toBeCloseTo(1, 9)
          expect(both.worldMatrix(testId(1)).determinant() / before).toBeCloseTo(1, 9)
          // The other has not moved.
          expect(socketsOfThing(both, testId(2))[b]!.point.toArray()).toEqual(other.point.toArray())
        },
      ),
    )
  })

  it('meet inside turned groups as well, and a ghost goes to the same place', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        anyVec3,
        anyQuat,
        fc.double({ min: 0.2, max: 4, noNaN: true }),
        (translation, rotation, t2, r2, size) => {
          const both = bareView([
            testPlacement(1, { kind: 'group', translation, rotation, scale: [size, size, size] }),
            testPlacement(2, {
              kind: 'part',
              partId: testId(9),
              parentId: testId(1),
              translation: [1, 2, 3],
              rotation: r2,
            }),
            testPlacement(3, { kind: 'part', partId: testId(9), translation: t2 }),
          ])
          const join = { own: socketsOfThing(both, testId(2))[1]!, other: socketsOfThing(both, testId(3))[0]! }
          const ghost = joiningMatrix(join).multiply(both.worldMatrix(testId(2)))
          applyChange(both, joinOperations(both, [testId(2)], join))
          expect(socketsOfThing(both, testId(2))[1]!.point.distanceTo(join.other.point)).toBeLessThan(1e-9)
          both.worldMatrix(testId(2)).elements.forEach((value, i) => expect(value).toBeCloseTo(ghost.elements[i]!, 6))
        },
      ),
    )
  })

  it('meet inside mirrored and unevenly sized groups too, and what a skew leaves between their directions is told', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        anyScale,
        anyQuat,
        anyVec3,
        anyQuat,
        fc.boolean(),
        (translation, rotation, scale, turn, t2, r2, even) => {
          const size: [number, number, number] = even ? [-scale[0], scale[0], scale[0]] : scale
          const both = bareView([
            testPlacement(1, { kind: 'group', translation, rotation, scale: size }),
            testPlacement(2, {
              kind: 'part',
              partId: testId(9),
              parentId: testId(1),
              translation: [1, 2, 3],
              rotation: turn,
            }),
            testPlacement(3, { kind: 'part', partId: testId(9), translation: t2, rotation: r2 }),
          ])
          const join = { own: socketsOfThing(both, testId(2))[1]!, other: socketsOfThing(both, testId(3))[0]! }
          const operations = joinOperations(both, [testId(2)], join)
          const off = joinedOff(both, operations, join)
          applyChange(both, operations)
          const after = socketsOfThing(both, testId(2))[1]!
          expect(after.point.distanceTo(join.other.point)).toBeLessThan(1e-6)
          expect(off).toBeCloseTo((after.direction.angleTo(join.other.direction.clone().negate()) * 180) / Math.PI, 4)
          if (even) expect(off).toBeLessThan(1e-4)
        },
      ),
    )
  })

  it('are looked for within a reach on the screen, of the same kind, and free', () => {
    const row = level({}, { translation: [2, 0, 0] }, { translation: [9, 0, 0] })
    const index = new LevelIndex(row, () => solid)
    const everywhere = new Box3(new Vector3(-50, -50, -50), new Vector3(50, 50, 50))
    const free = freeSocketsIn(
      index,
      everywhere,
      () => rail,
      () => true,
    )
    // The two in the middle are connected.
    expect(free.map(({ id, socket }) => [id, socket.name]).toSorted()).toEqual([
      [testId(1), 'left'],
      [testId(2), 'right'],
      [testId(3), 'left'],
      [testId(3), 'right'],
    ])
    expect(
      freeSocketsIn(
        index,
        everywhere,
        () => rail,
        id => id === testId(1),
      ),
    ).toHaveLength(2)
    const aim = aimAt([3, 2, 30], [3, 0, 0], [3, 0, 0])
    const moved = socketsAt('x', rail, new Matrix4().makeTranslation(4.2, 0, 0))
    expect(nearestJoin(moved, free, aim)).toMatchObject({
      own: { socket: { name: 'left' } },
      other: { id: testId(2), socket: { name: 'right' } },
    })
    expect(nearestJoin(socketsAt('x', rail, new Matrix4().makeTranslation(5, 3, 0)), free, aim)).toBeNull()
    expect(
      nearestJoin(
        moved.map(each => ({ ...each, socket: { ...each.socket, kind: 'kerb' } })),
        free,
        aim,
      ),
    ).toBeNull()
  })

  it('are read with directions of unit length at right angles, or not at all', () => {
    expect(socketSchema.safeParse(end(1)).success).toBe(true)
    expect(socketSchema.safeParse({ ...end(1), direction: [2, 0, 0] }).success).toBe(false)
    expect(socketSchema.safeParse({ ...end(1), up: [1, 0, 0] }).success).toBe(false)
    expect(socketSchema.safeParse({ ...end(1), at: [NaN, 0, 0] }).success).toBe(false)
  })
})
