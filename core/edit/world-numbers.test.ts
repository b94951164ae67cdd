import fc from 'fast-check'
import { mat4, vec3 } from 'gl-matrix'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyVec3, testId, testPlacement } from '../../tests/support'
import { applyChange } from '../level/change'
import type { LevelView } from '../scene/level-view'
import { bareView } from '../scene/level-view'
import { changeWorldNumber, worldNumbers } from './world-numbers'

const inside = (parent: object, child: object) =>
  bareView([testPlacement(1, parent), testPlacement(2, { parentId: testId(1), ...child })])
const numbersIn = (level: LevelView) => worldNumbers(level.need(testId(2)), level.worldMatrix(testId(2)))

describe("numbers in the world's axes", () => {
  it('say where the pivot is, as gl-matrix has it, however what it hangs from stands: property', () => {
    fc.assert(
      fc.property(anyVec3, anyQuat, anyVec3, (at, turn, place) => {
        const level = inside({ translation: at, rotation: turn }, { translation: place })
        const expected = vec3.transformMat4(vec3.create(), place, mat4.fromRotationTranslation(mat4.create(), turn, at))
        numbersIn(level).position.forEach((value, axis) => expect(value).toBeCloseTo(expected[axis]!, 3))
      }),
    )
  })

  it('are changed one at a time, and the others stay: property', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        anyVec3,
        fc.constantFrom(0 as const, 1 as const, 2 as const),
        fc.double({ min: -20, max: 20, noNaN: true }),
        (at, turn, place, axis, value) => {
          const level = inside({ translation: at, rotation: turn, scale: [2, 2, 2] }, { translation: place })
          const before = numbersIn(level)
          applyChange(
            level,
            changeWorldNumber(level, testId(2), 'position', axis, () => value),
          )
          const after = numbersIn(level)
          expect(after.position[axis]).toBeCloseTo(value, 6)
          for (const other of [0, 1, 2].filter(each => each !== axis))
            expect(after.position[other]).toBeCloseTo(before.position[other]!, 6)
          after.turn.forEach((degrees, i) => expect(degrees).toBeCloseTo(before.turn[i]!, 4))
        },
      ),
    )
  })

  it('turn a thing about its own pivot to so many degrees', () => {
    const level = inside(
      { translation: [5, 0, 0], rotation: [0, Math.SQRT1_2, 0, Math.SQRT1_2] },
      { translation: [1, 0, 0] },
    )
    expect(numbersIn(level)).toMatchObject({ position: [5, 0, -1], turn: [0, expect.closeTo(90, 6), 0] })
    applyChange(
      level,
      changeWorldNumber(level, testId(2), 'turn', 1, now => now - 60),
    )
    expect(numbersIn(level)).toMatchObject({ position: [5, 0, -1], turn: [0, expect.closeTo(30, 6), 0] })
  })
})
