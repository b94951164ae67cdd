import fc from 'fast-check'
import { Matrix4, PerspectiveCamera, Quaternion, Ray, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import {
  anyQuat,
  anyVec3,
  farthestApart,
  levelOfBoxes,
  testId,
  testPlacement,
  worldVertices,
} from '../../../tests/support'
import { applyChange } from '../../level/change'
import { bareView } from '../../scene/level-view'
import type { Vec3 } from '../../math/vectors'
import { localAxes } from './axes'
import { gripFactors, gripPoint, scaleForMetres, SizeDrag, sizeBoxOf, sizePlacements } from './size'
import type { SizeGrip } from './size'

const anySize = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: 0.3, max: 4, noNaN: true }))) as fc.Arbitrary<Vec3>
const anyFactor = fc.double({ min: 0.1, max: 6, noNaN: true })
const anyFace = fc.constantFrom<SizeGrip>([1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1])
const anyCorner = fc.constantFrom<SizeGrip>([1, 1, 1], [-1, 1, 1], [1, -1, -1], [-1, -1, -1])

function boxOf({ level, index }: ReturnType<typeof levelOfBoxes>, id: string) {
  return sizeBoxOf(localAxes(level, id), index.extents.cornersOf(level.subtree(id)))!
}

function sight(eye: Vector3, target: Vector3) {
  const camera = new PerspectiveCamera(60, 1.5)
  camera.position.copy(eye)
  camera.lookAt(target)
  camera.updateMatrixWorld()
  const [right, up, back] = [new Vector3(), new Vector3(), new Vector3()]
  camera.matrixWorld.extractBasis(right, up, back)
  return { right, up, forward: back.negate() }
}

describe('a face grip', () => {
  it('moves its face to the pointer and leaves the face across where it is', () => {
    fc.assert(
      fc.property(anySize, anyVec3, anyQuat, anyFace, anyFactor, (size, translation, rotation, grip, factor) => {
        const boxes = levelOfBoxes([{ size, translation, rotation }])
        const { level } = boxes
        const box = boxOf(boxes, testId(1))
        const across = grip.map(side => -side) as unknown as SizeGrip
        const [held, opposite] = [gripPoint(box, grip), gripPoint(box, across)]
        const axis = held.clone().sub(opposite)
        // The pointer goes straight from the face to where it shall be.
        const eye = held.clone().add(new Vector3(3, 7, 11).cross(axis).normalize().multiplyScalar(20))
        const target = opposite.clone().addScaledVector(axis, factor)
        const rayTo = (point: Vector3) => new Ray(eye.clone(), point.clone().sub(eye).normalize())
        const drag = new SizeDrag(rayTo(held), box, grip, sight(eye, held))
        const found = drag.update(rayTo(target))
        expect(found).toBeCloseTo(factor, 5)
        applyChange(level, sizePlacements(level, [testId(1)], gripFactors(grip, factor), box.axes, opposite).operations)
        const after = boxOf(boxes, testId(1))
        expect(gripPoint(after, across).distanceTo(opposite)).toBeLessThan(1e-5)
        expect(gripPoint(after, grip).distanceTo(target)).toBeLessThan(1e-5)
      }),
    )
  })
})

describe('a corner grip', () => {
  it('sizes all three axes alike and leaves the corner across where it is', () => {
    fc.assert(
      fc.property(anySize, anyVec3, anyQuat, anyCorner, anyFactor, (size, translation, rotation, grip, factor) => {
        const boxes = levelOfBoxes([{ size, translation, rotation }])
        const box = boxOf(boxes, testId(1))
        const opposite = gripPoint(box, grip.map(side => -side) as unknown as SizeGrip)
        applyChange(
          boxes.level,
          sizePlacements(boxes.level, [testId(1)], gripFactors(grip, factor), box.axes, opposite).operations,
        )
        const { scale } = boxes.level.need(testId(1))
        for (const value of scale) expect(value).toBeCloseTo(factor, 9)
        expect(
          gripPoint(boxOf(boxes, testId(1)), grip.map(side => -side) as unknown as SizeGrip).distanceTo(opposite),
        ).toBeLessThan(1e-5)
      }),
    )
  })

  it('never turns a thing inside out, however far the pointer goes', () => {
    const boxes = levelOfBoxes([{ size: [1, 1, 1] }])
    const box = boxOf(boxes, testId(1))
    const eye = new Vector3(0, 0.5, 10)
    const rayTo = (x: number) => new Ray(eye.clone(), new Vector3(x, 0.5, 0.5).sub(eye).normalize())
    const drag = new SizeDrag(rayTo(0.5), box, [1, 0, 0], sight(eye, new Vector3(0, 0.5, 0)))
    expect(drag.update(rayTo(-8))).toBe(0.001)
  })
})

describe('sizePlacements', () => {
  it('moves every vertex as the matrix would, for things whose axes are those of the sizing', () => {
    fc.assert(
      fc.property(anySize, anyVec3, anyQuat, anySize, anyVec3, (size, translation, rotation, factors, at) => {
        const { level, index } = levelOfBoxes([{ size, translation, rotation }])
        const axes = new Quaternion(...rotation)
        const anchor = new Vector3(...at)
        const before = worldVertices(level, index, testId(1))
        const { operations, inexact } = sizePlacements(level, [testId(1)], factors, axes, anchor)
        applyChange(level, operations)
        const grow = new Matrix4()
          .makeRotationFromQuaternion(axes)
          .multiply(new Matrix4().makeScale(...factors))
          .multiply(new Matrix4().makeRotationFromQuaternion(axes.clone().invert()))
        const expected = before.map(point => point.sub(anchor).applyMatrix4(grow).add(anchor))
        expect(inexact).toEqual([])
        expect(farthestApart(worldVertices(level, index, testId(1)), expected)).toBeLessThan(1e-4)
      }),
    )
  })

  it('names what is turned against the axes, and sizes it without skew', () => {
    const level = bareView([
      testPlacement(1, {
        rotation: new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), Math.PI / 6).toArray() as [
          number,
          number,
          number,
          number,
        ],
      }),
    ])
    const { operations, inexact } = sizePlacements(level, [testId(1)], [2, 1, 1], new Quaternion(), new Vector3())
    expect(inexact).toEqual([testId(1)])
    applyChange(level, operations)
    const { scale } = level.need(testId(1))
    // A unit step along its X is (cos 30°, 0, -sin 30°); twice as far along the world's X it is this long.
    expect(scale[0]).toBeCloseTo(Math.hypot(2 * Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)), 12)
    expect(scale[1]).toBe(1)
  })

  it("around each one's own pivot only the factors change", () => {
    const level = bareView([testPlacement(1, { translation: [3, 0, 0], scale: [2, 2, 2] })])
    applyChange(level, sizePlacements(level, [testId(1)], [1.5, 1, 1], new Quaternion(), null).operations)
    expect(level.need(testId(1))).toMatchObject({ translation: [3, 0, 0], scale: [3, 2, 2] })
  })

  it('gives a size in metres', () => {
    expect(scaleForMetres({ scale: [0.5, 1, 1] }, 0, 3, 1)).toEqual([1.5, 1, 1])
  })
})
