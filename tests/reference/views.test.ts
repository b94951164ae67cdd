import fc from 'fast-check'
import { Box3, MathUtils, PerspectiveCamera, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import type { Pose } from '../../core/math/pose'
import { clipDistances, frameBox, horizontalAngle, lookAround, orbit, zoomAt } from '../../core/math/pose'
import { anyVec3 } from '../support'

/** Three's camera at a pose: what it shows is the judge of what a pose means. */
function cameraAt({ eye, target }: Pose, aspect = 1.5, fieldOfView = 60): PerspectiveCamera {
  const camera = new PerspectiveCamera(fieldOfView, aspect, 0.01, 1e5)
  camera.position.copy(eye)
  camera.lookAt(target)
  camera.updateMatrixWorld()
  return camera
}

const anyPose = fc
  .tuple(anyVec3, anyVec3)
  .map(([a, b]): Pose => ({ eye: new Vector3(...a), target: new Vector3(...b), height: 10 }))
  .filter(({ eye, target }) => eye.distanceTo(target) > 1 && Math.abs(target.clone().sub(eye).normalize().y) < 0.95)
const anyAngle = fc.double({ min: -0.5, max: 0.5, noNaN: true })

describe('fields of view', () => {
  // A frame of 36 x 24 mm: 50 mm gives 39.6 x 27.0 degrees, 24 mm 73.7 x 53.1, 35 mm 54.4 x 37.8 (lens tables; from
  // memory).
  it.each([
    [50, 39.6, 27.0],
    [24, 73.7, 53.1],
    [35, 54.4, 37.8],
  ])('of a lens of %d mm are those of the tables', (focal, horizontal, vertical) => {
    const v = 2 * Math.atan(24 / 2 / focal)
    expect(MathUtils.radToDeg(v)).toBeCloseTo(vertical, 1)
    expect(MathUtils.radToDeg(horizontalAngle(v, 36 / 24))).toBeCloseTo(horizontal, 1)
  })

  it("agree with the edges of what three's camera shows, from 20 to 110 degrees", () => {
    for (const fieldOfView of [20, 60, 90, 110]) {
      const camera = cameraAt({ eye: new Vector3(), target: new Vector3(0, 0, -1), height: 1 }, 1.6, fieldOfView)
      const half = horizontalAngle(MathUtils.degToRad(fieldOfView), 1.6) / 2
      const edge = new Vector3(Math.tan(half) * 5, Math.tan(MathUtils.degToRad(fieldOfView) / 2) * 5, -5).project(
        camera,
      )
      expect(edge.x).toBeCloseTo(1, 10)
      expect(edge.y).toBeCloseTo(1, 10)
    }
  })
})

describe('orbit', () => {
  it('leaves the point orbited around where it is on the screen, and keeps its distance', () => {
    fc.assert(
      fc.property(anyPose, anyVec3, anyAngle, anyAngle, (pose, at, yaw, pitch) => {
        const point = new Vector3(...at)
        const before = point.clone().applyMatrix4(cameraAt(pose).matrixWorldInverse)
        fc.pre(before.z < -0.5)
        const turned = orbit(pose, point, yaw, pitch)
        const after = point.clone().applyMatrix4(cameraAt(turned).matrixWorldInverse)
        expect(after.distanceTo(before)).toBeLessThan(1e-6)
      }),
    )
  })

  it('never goes over the top', () => {
    let pose: Pose = { eye: new Vector3(5, 3, 0), target: new Vector3(), height: 1 }
    for (let i = 0; i < 60; i++) pose = orbit(pose, pose.target, 0, 0.3)
    expect(pose.eye.y).toBeLessThan(0)
    expect(Math.hypot(pose.eye.x, pose.eye.z)).toBeGreaterThan(0.005)
    expect(cameraAt(pose).matrixWorld.elements.every(Number.isFinite)).toBe(true)
  })
})

describe('looking around', () => {
  it('keeps the eye and the distance', () => {
    fc.assert(
      fc.property(anyPose, anyAngle, anyAngle, (pose, yaw, pitch) => {
        const turned = lookAround(pose, yaw, pitch)
        expect(turned.eye.equals(pose.eye)).toBe(true)
        expect(turned.target.distanceTo(turned.eye)).toBeCloseTo(pose.target.distanceTo(pose.eye), 6)
      }),
    )
  })
})

describe('zooming', () => {
  it('keeps the point under the pointer under the pointer, at every field of view', () => {
    fc.assert(
      fc.property(
        anyPose,
        anyVec3,
        fc.double({ min: 0.5, max: 2, noNaN: true }),
        fc.constantFrom(20, 60, 110),
        (pose, at, factor, fieldOfView) => {
          const point = new Vector3(...at)
          fc.pre(point.clone().applyMatrix4(cameraAt(pose).matrixWorldInverse).z < -0.5)
          const before = point.clone().project(cameraAt(pose, 1.5, fieldOfView))
          const after = point.clone().project(cameraAt(zoomAt(pose, point, factor), 1.5, fieldOfView))
          expect(Math.hypot(after.x - before.x, after.y - before.y)).toBeLessThan(
            1e-6 * Math.max(1, Math.hypot(before.x, before.y)),
          )
        },
      ),
    )
  })
})

describe('framing', () => {
  it('brings the whole box into view, in panes high and wide', () => {
    fc.assert(
      fc.property(
        anyPose,
        anyVec3,
        anyVec3,
        fc.constantFrom(0.6, 1, 2.2),
        fc.constantFrom(20, 60, 110),
        (pose, a, b, aspect, fieldOfView) => {
          const box = new Box3().setFromPoints([new Vector3(...a), new Vector3(...b)])
          const camera = cameraAt(frameBox(pose, box, fieldOfView, aspect), aspect, fieldOfView)
          for (const corner of [box.min, box.max]) {
            const seen = corner.clone().project(camera)
            expect(Math.max(Math.abs(seen.x), Math.abs(seen.y))).toBeLessThanOrEqual(1.0001)
          }
        },
      ),
    )
  })
})

describe('near and far', () => {
  it('cut neither a detail at 10 cm nor the far bank of a level of 400 m', () => {
    const level = new Box3(new Vector3(-200, -5, -200), new Vector3(200, 20, 200))
    const close: Pose = { eye: new Vector3(-199.9, 1, 0), target: new Vector3(-199.8, 1, 0), height: 1 }
    const { near, far } = clipDistances(close, level)
    expect(near).toBeLessThan(0.02)
    expect(far).toBeGreaterThan(400)
  })
})
