import fc from 'fast-check'
import { mat4, quat, vec3 } from 'gl-matrix'
import * as math from 'mathjs'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { decompose, degreesToQuat, localMatrix, nodeTranslation, quatToDegrees } from '../../core/math/transform'
import { Pcg32 } from '../../core/math/random'
import { reparent } from '../../core/level/tree'
import { bareView } from '../../core/scene/level-view'
import type { Quat, Vec3 } from '../../core/math/vectors'
import { anyQuat, anyScale, anyTree, anyVec3, testId, testPlacement } from '../support'

// gl-matrix and mathjs are two libraries independent of three and of each other. gl-matrix is told to use doubles.
const close = (actual: ArrayLike<number>, expected: ArrayLike<number>, tolerance = 1e-12) => {
  const size = Math.max(1, ...Array.from(expected, Math.abs))
  for (let i = 0; i < expected.length; i++) expect(Math.abs(actual[i]! - expected[i]!) / size).toBeLessThan(tolerance)
}
const doubles = (length: number) => new Float64Array(length) as unknown as mat4

const anyTransform = fc.record({ translation: anyVec3, rotation: anyQuat, scale: anyScale, pivot: anyVec3 })

describe('T · R · S · T(-pivot)', () => {
  // glTF 2.0 (ISO/IEC 12113:2022, 3.5.3): a node's matrix is T · R · S, matrices are column-major.
  it('agrees with gl-matrix', () => {
    fc.assert(
      fc.property(anyTransform, transform => {
        const { translation, rotation, scale, pivot } = transform
        const expected = mat4.fromRotationTranslationScale(doubles(16), rotation, translation, scale)
        mat4.translate(expected, expected, vec3.negate(new Float64Array(3) as unknown as vec3, pivot))
        close(localMatrix(transform, new Matrix4()).elements, expected as unknown as number[])
      }),
    )
  })

  it('agrees with four matrices multiplied by mathjs', () => {
    fc.assert(
      fc.property(anyTransform, transform => {
        const {
          translation,
          rotation: [x, y, z, w],
          scale,
          pivot,
        } = transform
        const shift = ([a, b, c]: Vec3) => [
          [1, 0, 0, a],
          [0, 1, 0, b],
          [0, 0, 1, c],
          [0, 0, 0, 1],
        ]
        // Rotation matrix of a unit quaternion: Diebel 2006, equation 125 (from memory).
        const turn = [
          [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w), 0],
          [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w), 0],
          [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y), 0],
          [0, 0, 0, 1],
        ]
        const expected = [
          shift(translation),
          turn,
          math.diag([...scale, 1]),
          shift(pivot.map(value => -value) as Vec3),
        ].reduce((product, factor) => math.multiply(product, factor) as number[][])
        const { elements } = localMatrix(transform, new Matrix4())
        close(elements, (math.transpose(expected) as number[][]).flat())
      }),
    )
  })

  it('as a glTF node without a pivot stands in the same place', () => {
    fc.assert(
      fc.property(anyTransform, transform => {
        const expected = mat4.fromRotationTranslationScale(
          doubles(16),
          transform.rotation,
          nodeTranslation(transform),
          transform.scale,
        )
        close(localMatrix(transform, new Matrix4()).elements, expected as unknown as number[])
      }),
    )
  })

  it('down a tree is the product of all above', () => {
    fc.assert(
      fc.property(anyTree(7), tree => {
        const level = bareView(tree)
        const worldOf = (id: string): mat4 => {
          const placement = level.need(id)
          const local = mat4.fromRotationTranslationScale(
            doubles(16),
            placement.rotation,
            nodeTranslation(placement),
            placement.scale,
          )
          return placement.parentId === null ? local : mat4.multiply(doubles(16), worldOf(placement.parentId), local)
        }
        for (const { id } of tree) close(level.worldMatrix(id).elements, worldOf(id) as unknown as number[], 1e-11)
      }),
    )
  })
})

describe('turns in degrees', () => {
  it('come back as they were', () => {
    fc.assert(
      fc.property(anyQuat, rotation => {
        const again = degreesToQuat(quatToDegrees(rotation))
        // q and -q are the same rotation.
        const dot = again.reduce((sum, value, i) => sum + value * rotation[i]!, 0)
        expect(Math.abs(dot)).toBeGreaterThan(1 - 1e-9)
      }),
    )
  })

  it('about one axis agree with gl-matrix', () => {
    for (const [axis, degrees] of [
      [[90, 0, 0], 0],
      [[0, 90, 0], 1],
      [[0, 0, 90], 2],
    ] as [Vec3, number][]) {
      const unit = [0, 0, 0]
      unit[degrees] = 1
      const expected = quat.setAxisAngle(new Float64Array(4) as unknown as quat, unit as Vec3, Math.PI / 2)
      close(degreesToQuat(axis), expected as unknown as Quat)
    }
  })

  it("are applied heading last, as glTF's +Y up makes them read", () => {
    const matrix = localMatrix({ ...testPlacement(1), rotation: degreesToQuat([30, 90, 0]) }, new Matrix4())
    const forward = new Vector3(0, 0, 1).transformDirection(matrix)
    // Pitched down by 30 degrees about X first, then turned to face +X.
    close(forward.toArray(), [Math.cos(Math.PI / 6), -0.5, 0])
    expect(testId(1)).toHaveLength(36)
  })
})

describe('the nearest without skew', () => {
  const without = (transform: ReturnType<typeof decompose>) =>
    localMatrix({ ...transform, pivot: [0, 0, 0] }, new Matrix4())
  /** The shape's nine numbers alone. */
  const errorOf = (a: Matrix4, b: Matrix4) =>
    Math.hypot(...[0, 1, 2, 4, 5, 6, 8, 9, 10].map(i => a.elements[i]! - b.elements[i]!))

  /** The least error that there is, by trying turns at random, and then ever smaller ones about the best. */
  function leastError(matrix: Matrix4): number {
    const random = new Pcg32([0, 5], [0, 1])
    const normal = () => Math.sqrt(-2 * Math.log(1 - random.share())) * Math.cos(2 * Math.PI * random.share())
    const axes = [0, 1, 2].map(column => new Vector3().setFromMatrixColumn(matrix, column))
    const [x, y, z] = [new Vector3(), new Vector3(), new Vector3()]
    const missing = (turn: Quaternion) => {
      new Matrix4().makeRotationFromQuaternion(turn).extractBasis(x, y, z)
      return axes.reduce((sum, axis, i) => sum + axis.lengthSq() - axis.dot([x, y, z][i]!) ** 2, 0)
    }
    const tried = Array.from({ length: 1500 }, () =>
      new Quaternion(normal(), normal(), normal(), normal()).normalize(),
    ).map(turn => ({ turn, error: missing(turn) }))
    let best = Infinity
    for (const start of tried.sort((a, b) => a.error - b.error).slice(0, 6)) {
      let { turn, error } = start
      for (let step = 0.3; step > 1e-7; step *= 0.93) {
        for (let i = 0; i < 6; i++) {
          const next = new Quaternion(step * normal(), step * normal(), step * normal(), 1).normalize().multiply(turn)
          const its = missing(next)
          if (its < error) [turn, error] = [next, its]
        }
      }
      best = Math.min(best, error)
    }
    return Math.sqrt(Math.max(best, 0))
  }

  it('is no farther from it than the best of thousands of turns', () => {
    fc.assert(
      fc.property(anyQuat, anyScale, anyQuat, anyScale, (rotation, scale, inner, innerScale) => {
        const skewed = without({ translation: [0, 0, 0], rotation, scale }).multiply(
          without({ translation: [0, 0, 0], rotation: inner, scale: innerScale }),
        )
        expect(errorOf(skewed, without(decompose(skewed, [0, 0, 0])))).toBeLessThanOrEqual(
          leastError(skewed) * (1 + 1e-6) + 1e-5 * skewed.getMaxScaleOnAxis(),
        )
      }),
      { numRuns: 40, seed: 3, endOnFailure: true },
    )
  })

  it('is the matrix itself where there is no skew, mirrored or not, also far away', () => {
    fc.assert(
      fc.property(anyTransform, fc.constantFrom(1, 1e4, 1e5), (transform, far) => {
        const matrix = localMatrix(
          { ...transform, translation: transform.translation.map(value => (value * far) / 50) as Vec3 },
          new Matrix4(),
        )
        expect(errorOf(matrix, without(decompose(matrix, [0, 0, 0])))).toBeLessThan(1e-12 * 10)
      }),
    )
  })

  it('is said to be skewed a hundred kilometres away as it is at hand', () => {
    for (const far of [0, 10_000, 100_000]) {
      const level = bareView([
        testPlacement(1, { translation: [far, 0, far], scale: [1, 1, 1.2] }),
        testPlacement(2, { parentId: testId(1), rotation: degreesToQuat([0, 30, 0]) }),
      ])
      expect(reparent(level, [testId(2)], null).skewed).toEqual([testId(2)])
      expect(
        reparent(
          bareView([
            testPlacement(1, { translation: [far, 0, far], scale: [1.2, 1.2, 1.2] }),
            testPlacement(2, { parentId: testId(1), rotation: degreesToQuat([0, 30, 0]) }),
          ]),
          [testId(2)],
          null,
        ).skewed,
      ).toEqual([])
    }
  })
})
