import fc from 'fast-check'
import { Quaternion } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyVec3, levelOfBoxes, testId, testPlacement } from '../../../tests/support'
import { pivotOf } from '../handles/pivot'
import { applyChange } from '../../level/change'
import { bareView } from '../../scene/level-view'
import type { Vec3 } from '../../math/vectors'
import { degreesToQuat, quatToDegrees } from '../../math/transform'
import type { AlignRule } from './align'
import { align, ALIGN_TARGETS } from './align'
import { distribute } from './distribute'
import { ALIGN_PLACES, extentOf, coordinateOf } from './extent'
import { match } from './match'

const world = new Quaternion()
const anyThing = fc.record({
  size: fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.2, max: 3, noNaN: true }))) as fc.Arbitrary<Vec3>,
  translation: anyVec3,
  rotation: anyQuat,
})
const anyLevel = fc.array(anyThing, { minLength: 3, maxLength: 6, size: 'max' })
const idsOf = (things: unknown[]) => things.map((_, i) => testId(i + 1))
const anyAxis = fc.constantFrom(0 as const, 1 as const, 2 as const)

describe('align', () => {
  it('brings one place of each onto one line, twice is once, and the target stays', () => {
    fc.assert(
      fc.property(
        anyLevel,
        anyAxis,
        fc.constantFrom(...ALIGN_PLACES),
        fc.constantFrom(...ALIGN_TARGETS.filter(target => target !== 'ground')),
        anyQuat,
        (things, axis, place, target, quat) => {
          const { level, index } = levelOfBoxes(things)
          const axes = new Quaternion(...quat)
          const ids = idsOf(things)
          const rules: (AlignRule | null)[] = [null, null, null]
          rules[axis] = { place, target, value: 3 }
          const still = target === 'last' ? ids.at(-1)! : target === 'first' ? ids[0]! : null
          const before = still && level.need(still).translation
          applyChange(level, align(level, index, ids, axes, rules))
          const lines = ids.map(id => coordinateOf(extentOf(level, index, id, axes, axis), place))
          for (const line of lines) expect(line).toBeCloseTo(target === 'value' ? 3 : lines[0]!, 4)
          if (still)
            level
              .need(still)
              .translation.forEach((value: number, i) => expect(value).toBeCloseTo((before as Vec3)[i]!, 4))
          const again = align(level, index, ids, axes, rules)
          const once = ids.map(id => level.need(id).translation)
          applyChange(level, again)
          ids.forEach((id, i) =>
            level.need(id).translation.forEach((value, k) => expect(value).toBeCloseTo(once[i]![k]!, 5)),
          )
        },
      ),
    )
  })

  it('measures by real points, so that a turned thing stands on the line and not above it', () => {
    const { level, index } = levelOfBoxes([
      { size: [1, 1, 1], rotation: degreesToQuat([0, 0, 45]) },
      { size: [1, 1, 1] },
    ])
    applyChange(
      level,
      align(level, index, [testId(1), testId(2)], world, [null, { place: 'min', target: 'last' }, null]),
    )
    // Turned by 45 degrees about the middle of its foot, a cube of 1 m reaches sin 45° / 2 below that.
    expect(level.need(testId(1)).translation[1]).toBeCloseTo(Math.SQRT1_2 / 2, 5)
  })

  it('puts each on the ground below it', () => {
    const { level, index } = levelOfBoxes([
      { size: [9, 1, 9], translation: [0, -1, 0] },
      { size: [1, 1, 1], translation: [0, 4, 0] },
      { size: [1, 1, 1], translation: [3, 2, 0] },
      { size: [1, 1, 1], translation: [50, 2, 0] },
    ])
    applyChange(
      level,
      align(level, index, [testId(2), testId(3), testId(4)], world, [null, { place: 'min', target: 'ground' }, null]),
    )
    expect([2, 3, 4].map(n => level.need(testId(n)).translation[1])).toEqual([0, 0, 2])
  })
})

describe('distribute', () => {
  it('gives equal gaps, ends fixed, whatever the sizes and turns', () => {
    fc.assert(
      fc.property(anyLevel, anyAxis, (things, axis) => {
        const { level, index } = levelOfBoxes(things)
        const ids = idsOf(things)
        const middles = () =>
          ids.map(id => extentOf(level, index, id, world, axis)).sort((a, b) => a.min + a.max - b.min - b.max)
        const before = middles()
        applyChange(level, distribute(level, index, ids, { axes: world, axis, rule: { by: 'gaps' } }))
        const order = before.map(({ id }) => extentOf(level, index, id, world, axis))
        const gaps = order.slice(1).map((next, i) => next.min - order[i]!.max)
        for (const gap of gaps) expect(gap).toBeCloseTo(gaps[0]!, 4)
        expect(order[0]!.min).toBeCloseTo(before[0]!.min, 4)
        expect(order.at(-1)!.max).toBeCloseTo(before.at(-1)!.max, 4)
      }),
    )
  })

  it('gives equal distances of one place, or a given gap', () => {
    const things = [
      { size: [1, 1, 1] as Vec3 },
      { size: [2, 1, 1] as Vec3, translation: [3, 0, 0] as Vec3 },
      { size: [1, 1, 1] as Vec3, translation: [10, 0, 0] as Vec3 },
    ]
    const { level, index } = levelOfBoxes(things)
    applyChange(
      level,
      distribute(level, index, idsOf(things), { axes: world, axis: 0, rule: { by: 'places', place: 'centre' } }),
    )
    expect(level.need(testId(2)).translation[0]).toBe(5)
    applyChange(level, distribute(level, index, idsOf(things), { axes: world, axis: 0, rule: { by: 'gap', gap: 0 } }))
    expect([1, 2, 3].map(n => level.need(testId(n)).translation[0])).toEqual([0, 1.5, 3])
    expect(distribute(level, index, [testId(1), testId(2)], { axes: world, axis: 0, rule: { by: 'gaps' } })).toEqual([])
  })
})

describe('match', () => {
  it('takes position and turn per axis from another thing, also across parents', () => {
    const level = bareView([
      testPlacement(1, { translation: [5, 0, 0], rotation: degreesToQuat([0, 90, 0]) }),
      testPlacement(2, { parentId: testId(1), translation: [1, 2, 3], rotation: degreesToQuat([10, 20, 30]) }),
      testPlacement(3, { translation: [-1, -2, -3], rotation: degreesToQuat([5, 50, 15]) }),
    ])
    const { index } = levelOfBoxes([])
    applyChange(
      level,
      match(level, index, [testId(2)], { from: testId(3), what: 'position', axes: [true, false, true] }),
    )
    expect(
      pivotOf(level, testId(2))
        .toArray()
        .map(value => Math.round(value * 1e9) / 1e9),
    ).toEqual([-1, 2, -3])
    applyChange(level, match(level, index, [testId(2)], { from: testId(3), what: 'turn', axes: [true, true, true] }))
    const turned = quatToDegrees(
      new Quaternion().setFromRotationMatrix(level.worldMatrix(testId(2))).toArray() as [
        number,
        number,
        number,
        number,
      ],
    )
    turned.forEach((value, i) => expect(value).toBeCloseTo([5, 50, 15][i]!, 9))
  })

  it('takes the measured size per axis, and the height from where it stands', () => {
    const { level, index } = levelOfBoxes([
      { size: [1, 1, 1], translation: [0, 2, 0] },
      { size: [2, 3, 4], scale: [1, 2, 1], translation: [9, 0, 0] },
    ])
    applyChange(level, match(level, index, [testId(1)], { from: testId(2), what: 'size', axes: [true, false, true] }))
    expect(level.need(testId(1)).scale.map(value => Math.round(value * 1e6) / 1e6)).toEqual([2, 1, 4])
    applyChange(level, match(level, index, [testId(1)], { from: testId(2), what: 'height', axes: [true, true, true] }))
    const { min, max } = extentOf(level, index, testId(1), world, 1)
    expect([min, max].map(value => Math.round(value * 1e5) / 1e5)).toEqual([2, 8])
  })
})
