import fc from 'fast-check'
import type { Matrix4 } from 'three'
import { Box3, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { RULES } from '../arrange/rules'
import { applyChange } from '../level/change'
import type { LevelView } from '../scene/level-view'
import { bareView } from '../scene/level-view'
import { copyId } from '../scene/copy-id'
import { anyQuat, anyVec3, testId, testPlacement } from '../../tests/support'
import type { SwapShape } from './swap-part'
import { showingPart, swapParts } from './swap-part'

const [OLD, NEW] = [testId(100), testId(101)]
const shape = (
  min: [number, number, number],
  max: [number, number, number],
  pivot: [number, number, number] = [0, 0, 0],
): SwapShape => ({ box: new Box3(new Vector3(...min), new Vector3(...max)), pivot })
const old = shape([-1, 0, -1], [1, 2, 1])
const other = shape([-0.5, 0, -0.25], [1.5, 6, 0.75])
let made = 500
const newId = () => testId(made++)
const swap = (level: LevelView, ids: string[], rule: Parameters<typeof swapParts>[4], part = other) =>
  swapParts(level, ids, NEW, part, rule, () => old, newId)

describe('another part in the place of one', () => {
  it('stands by exactly the same matrix when nothing is to be fitted', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, anyVec3, (translation, rotation, pivot) => {
        const level = bareView([
          testPlacement(1, { kind: 'part', partId: OLD, translation, rotation, scale: [-2, 1, 0.5], pivot }),
        ])
        const before = level.worldMatrix(testId(1)).clone()
        applyChange(level, swap(level, [testId(1)], { fit: false, by: 'pivot' }).operations)
        expect(level.need(testId(1)).partId).toBe(NEW)
        expect(level.worldMatrix(testId(1)).elements).toEqual(before.elements)
      }),
    )
  })

  it('has its box exactly where the other had it, when it is fitted by the middle', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, anyVec3, (translation, rotation, pivot) => {
        const level = bareView([
          testPlacement(1, { kind: 'part', partId: OLD, translation, rotation, scale: [-2, 1, 0.5], pivot }),
        ])
        const corner = (box: Box3, matrix: Matrix4, i: number) =>
          new Vector3(
            i & 1 ? box.max.x : box.min.x,
            i & 2 ? box.max.y : box.min.y,
            i & 4 ? box.max.z : box.min.z,
          ).applyMatrix4(matrix)
        const before = level.worldMatrix(testId(1)).clone()
        applyChange(level, swap(level, [testId(1)], { fit: true, by: 'middle' }).operations)
        for (let i = 0; i < 8; i++)
          expect(
            corner(other.box, level.worldMatrix(testId(1)), i).distanceTo(corner(old.box, before, i)),
          ).toBeLessThan(1e-6)
      }),
    )
  })

  it('keeps its own size with its middle, or its pivot, where the other had it', () => {
    const level = bareView([testPlacement(1, { kind: 'part', partId: OLD, translation: [3, 1, 2] })])
    applyChange(level, swap(level, [testId(1)], { fit: false, by: 'middle' }).operations)
    expect(
      other.box
        .getCenter(new Vector3())
        .applyMatrix4(level.worldMatrix(testId(1)))
        .toArray(),
    ).toEqual([3, 2, 2])
    expect(level.need(testId(1)).scale).toEqual([1, 1, 1])
    const again = bareView([testPlacement(1, { kind: 'part', partId: OLD, translation: [3, 1, 2] })])
    // A part whose pivot is elsewhere in its mesh stands by that.
    applyChange(again, swap(again, [testId(1)], { fit: false, by: 'pivot' }, { ...other, pivot: [0, 6, 0] }).operations)
    expect(new Vector3(0, 6, 0).applyMatrix4(again.worldMatrix(testId(1))).toArray()).toEqual([3, 1, 2])
  })

  it('comes into one copy alone, and all others stay what they were', () => {
    const level = bareView([
      testPlacement(1, { kind: 'arrangement', own: { rule: RULES.line.first } }),
      testPlacement(2, { kind: 'part', partId: OLD, parentId: testId(1) }),
    ])
    const shown = () => [0, 1, 2, 3, 4].map(key => level.get(copyId(testId(1), String(key)))!.partId)
    const matrices = () =>
      [0, 1, 2, 3, 4].map(key =>
        level.worldMatrix(copyId(testId(1), String(key))).elements.map(value => Math.round(value * 1e9)),
      )
    const before = matrices()
    applyChange(
      level,
      swap(level, [copyId(testId(1), '1'), copyId(testId(1), '3')], { fit: false, by: 'pivot' }).operations,
    )
    expect(shown()).toEqual([OLD, NEW, OLD, NEW, OLD])
    expect(matrices()).toEqual(before)
    // A further one takes the source that is there by now.
    const further = swap(level, [copyId(testId(1), '4')], { fit: false, by: 'pivot' })
    expect(further.operations).toHaveLength(1)
    applyChange(level, further.operations)
    expect(shown()).toEqual([OLD, NEW, OLD, NEW, NEW])
    expect(level.children(testId(1))).toHaveLength(2)
  })

  it('comes into all copies when their source is swapped, and what cannot be swapped is named', () => {
    const level = bareView([
      testPlacement(1, { kind: 'arrangement', own: { rule: RULES.line.first } }),
      testPlacement(2, { kind: 'part', partId: OLD, parentId: testId(1) }),
      testPlacement(3, { kind: 'group' }),
      testPlacement(4, { kind: 'part', partId: OLD, locked: true }),
    ])
    expect(showingPart(level, OLD)).toEqual([testId(2)])
    const { operations, left } = swap(level, [...showingPart(level, OLD), testId(3)], { fit: true, by: 'pivot' })
    applyChange(level, operations)
    expect(level.get(copyId(testId(1), '4'))!.partId).toBe(NEW)
    expect(left).toEqual([{ name: 'Thing 3', why: 'shows no part' }])
    const two = bareView([
      testPlacement(1, { kind: 'arrangement', own: { rule: RULES.line.first } }),
      testPlacement(2, { kind: 'part', partId: OLD, parentId: testId(1) }),
      testPlacement(3, { kind: 'part', partId: testId(102), parentId: testId(1), order: 1 }),
    ])
    expect(swap(two, [copyId(testId(1), '0')], { fit: false, by: 'pivot' }).left[0]!.why).toMatch(/in turn/)
  })
})
