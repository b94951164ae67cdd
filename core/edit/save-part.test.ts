import { cameraOwn } from '../level/create'
import fc from 'fast-check'
import { BoxGeometry, Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { RULES } from '../arrange/rules'
import { applyChange } from '../level/change'
import { LevelIndex } from '../scene/level-index'
import { levelMesh } from '../scene/level-mesh'
import { bareView } from '../scene/level-view'
import type { Quat } from '../math/vectors'
import { anyQuat, anyVec3, testId, testPlacement, testSolid, worldVertices } from '../../tests/support'
import { boxAlong, replaceByPart, thingsAsPart } from './save-part'

const PART = testId(900)
const solid = testSolid(new BoxGeometry(1, 2, 3))
let made = 2000
const newId = () => testId(made++)
const unit = ([x, y, z, w]: Quat): Quat => {
  const turn = new Quaternion(x, y, z, w)
  return (turn.length() < 1e-6 ? new Quaternion() : turn.normalize()).toArray() as Quat
}
/** Places as text, sorted: however they are listed, the same places give the same. */
const places = (points: readonly Vector3[]) =>
  points
    .map(point =>
      point
        .toArray()
        .map(value => Math.round(value * 1000) / 1000 + 0)
        .join(),
    )
    .sort()

function yard() {
  return bareView([
    testPlacement(1, { kind: 'group', translation: [3, 0, 1], rotation: [0, 0.6, 0, 0.8], scale: [2, 2, 2] }),
    testPlacement(2, {
      kind: 'part',
      partId: PART,
      parentId: testId(1),
      translation: [1, 0, 0],
      rotation: [0, 0, 0.6, 0.8],
    }),
    testPlacement(3, { kind: 'part', partId: PART, parentId: testId(1), scale: [-1, 1, 1], order: 1 }),
    testPlacement(4, { kind: 'arrangement', translation: [-4, 0, 0], own: { rule: RULES.line.first } }),
    testPlacement(5, { kind: 'part', partId: PART, parentId: testId(4), translation: [0, 0, 2], pivot: [0, 1, 0] }),
    testPlacement(6, { kind: 'part', partId: PART, translation: [0, 9, 0] }),
    testPlacement(7, { kind: 'camera', translation: [0, 3, 0], own: cameraOwn({ fieldOfView: 50 }) }),
  ])
}

describe('things that become a part', () => {
  it('look the same as an instance of it, wherever its pivot and its axes are', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, (origin, quat) => {
        const level = yard()
        const index = new LevelIndex(level, () => solid)
        const chosen = [testId(1), testId(4), testId(7)]
        const before = places(chosen.flatMap(id => worldVertices(level, index, id)))
        const frame = { origin, rotation: unit(quat) }
        const { operations, skewed } = thingsAsPart(level, chosen, frame, newId)
        expect(skewed).toEqual([])
        const workshop = bareView()
        applyChange(workshop, operations)
        const mesh = levelMesh(workshop, () => solid)
        applyChange(level, replaceByPart(level, chosen, testId(50), { id: testId(901), name: 'Stall' }, frame))
        expect([...level.placements()].map(({ id }) => id).sort()).toEqual([testId(6), testId(50)])
        const toWorld = level.worldMatrix(testId(50))
        const after = mesh.primitives.flatMap(({ positions }) =>
          Array.from({ length: positions.length / 3 }, (_, i) =>
            new Vector3().fromArray(positions, i * 3).applyMatrix4(toWorld),
          ),
        )
        expect(places(after)).toEqual(before)
        // Its pivot is where it was wanted.
        expect(new Vector3(...level.need(testId(50)).translation).distanceTo(new Vector3(...origin))).toBeLessThan(1e-9)
      }),
      { numRuns: 40 },
    )
  })

  it('that hang in a group leave the instance there; in a skewed one it hangs from nothing', () => {
    const level = yard()
    const frame = { origin: [1, 2, 3] as [number, number, number], rotation: [0, 0, 0, 1] as Quat }
    applyChange(level, replaceByPart(level, [testId(2)], testId(50), { id: testId(901), name: 'Stall' }, frame))
    expect(level.need(testId(50)).parentId).toBe(testId(1))
    expect(level.worldMatrix(testId(50)).elements.map(value => Math.round(value * 1e9) / 1e9 + 0)).toEqual(
      new Matrix4().makeTranslation(1, 2, 3).elements,
    )
    const skewed = bareView([
      testPlacement(1, { kind: 'group', scale: [1, 3, 1] }),
      testPlacement(2, { kind: 'part', partId: PART, parentId: testId(1), rotation: [0, 0, 0.6, 0.8] }),
    ])
    expect(thingsAsPart(skewed, [testId(2)], frame, newId).skewed).toEqual(['Thing 2'])
    applyChange(
      skewed,
      replaceByPart(
        skewed,
        [testId(2)],
        testId(50),
        { id: testId(901), name: 'Stall' },
        { ...frame, rotation: [0, 0, 0.6, 0.8] },
      ),
    )
    expect(skewed.need(testId(50)).parentId).toBeNull()
  })

  it('have the smallest box along their axes', () => {
    const level = bareView([
      testPlacement(1, { kind: 'part', partId: PART, rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] }),
    ])
    const index = new LevelIndex(level, () => solid)
    const size = (rotation: Quat) =>
      boxAlong(level, index, [testId(1)], rotation)
        .getSize(new Vector3())
        .toArray()
        .map(value => Math.round(value * 1e6) / 1e6)
    expect(size([0, 0, 0, 1])).toEqual([3, 2, 1])
    expect(size([0, Math.SQRT1_2, 0, Math.SQRT1_2])).toEqual([1, 2, 3])
  })
})
