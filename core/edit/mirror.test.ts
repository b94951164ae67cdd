import fc from 'fast-check'
import { glMatrix, mat4, vec3 } from 'gl-matrix'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { anyQuat, anyVec3, testId, testPlacement } from '../../tests/support'
import { applyChange } from '../level/change'
import { bareView } from '../scene/level-view'
import { moveMirrorPlane, planeOfMirror, reflection } from './mirror'

glMatrix.setMatrixArrayType(Array as unknown as Float32ArrayConstructor)
const rule = (axis: 0 | 1 | 2) => ({ rule: { type: 'mirror' as const, axis } })

describe('the plane of a live mirror', () => {
  it('is moved along its normal while the things stay, and their images go twice as far: property', () => {
    fc.assert(
      fc.property(
        anyVec3,
        anyQuat,
        anyVec3,
        anyVec3,
        fc.constantFrom(0 as const, 1 as const, 2 as const),
        fc.double({ min: -5, max: 5, noNaN: true }),
        (at, turn, pivot, thing, axis, by) => {
          const level = bareView([
            testPlacement(1, { kind: 'arrangement', own: rule(axis), translation: at, rotation: turn, pivot }),
            testPlacement(2, { parentId: testId(1), translation: thing }),
          ])
          const image = () =>
            vec3.transformMat4(vec3.create(), vec3.transformMat4(vec3.create(), thing2(), imageIn(axis)), [
              ...level.worldMatrix(testId(1)).elements,
            ] as unknown as mat4)
          const thing2 = () => level.need(testId(2)).translation
          const { normal } = planeOfMirror(level, testId(1))
          const [stood, before] = [level.worldMatrix(testId(2)).toArray(), image()]
          const { inverse } = applyChange(level, moveMirrorPlane(level, testId(1), by))
          level
            .worldMatrix(testId(2))
            .toArray()
            .forEach((value, i) => expect(value).toBeCloseTo(stood[i]!, 6))
          Array.from(image()).forEach((value, i) => expect(value).toBeCloseTo(before[i]! + 2 * by * normal[i]!, 6))
          // The image is where the plane says: by Householder's reflection across it.
          const across = new Vector3()
            .setFromMatrixPosition(level.worldMatrix(testId(2)))
            .sub(new Vector3(...[0, 0, 0]))
            .applyMatrix4(reflection(planeOfMirror(level, testId(1))))
          across.toArray().forEach((value, i) => expect(value).toBeCloseTo(image()[i]!, 6))
          applyChange(level, inverse)
          expect(level.need(testId(1)).translation).toEqual(at)
        },
      ),
    )
  })
})

/** As glTF would write it: a negative scale along the axis. */
const imageIn = (axis: number): mat4 =>
  mat4.fromScaling(mat4.create(), [0, 1, 2].map(i => (i === axis ? -1 : 1)) as [number, number, number])
