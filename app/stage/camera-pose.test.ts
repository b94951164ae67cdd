import fc from 'fast-check'
import { Box3, Matrix4, PerspectiveCamera, Quaternion, Vector3 } from 'three'
import { expect, it } from 'vitest'
import { turnTo } from '../../core/edit/aim'
import { cameraOwn } from '../../core/level/create'
import { anyQuat, anyScale, anyVec3 } from '../../tests/support'
import { throughCamera } from './camera-pose'
import { View } from './view'

const anyCamera = fc.record({
  at: anyVec3,
  turn: anyQuat,
  aspect: fc.double({ min: 0.3, max: 3, noNaN: true }),
  fieldOfView: fc.double({ min: 8, max: 140, noNaN: true }),
})

it("a view sees through a camera what three's camera sees there, and steering it back leaves it as it was, roll and all", () => {
  fc.assert(
    fc.property(anyCamera, ({ at, turn, aspect, fieldOfView }) => {
      const rotation = new Quaternion(...turn)
      const way = new Vector3(0, 0, -1).applyQuaternion(rotation)
      fc.pre(Math.abs(way.y) < 0.999)
      const matrix = new Matrix4().compose(new Vector3(...at), rotation, new Vector3(1, 1, 1))
      const { pose, lens } = throughCamera(cameraOwn({ aspect, fieldOfView, near: 0.1, far: 500 }), matrix, null)
      expect(pose.eye.toArray()).toEqual(at)
      expect(
        new Quaternion(...turnTo(pose.eye, pose.target, new Matrix4(), [1, 1, 1], lens.roll)!).angleTo(rotation),
      ).toBeLessThan(1e-6)

      // The corners of its picture lie on the frame in the pane.
      const view = new View(
        'walkaround',
        true,
        () => new Box3(),
        () => {},
      )
      view.setRect({ x: 0, y: 0, width: 900, height: 600 })
      view.lens = lens
      view.follow(pose)
      const camera = new PerspectiveCamera(fieldOfView, aspect, 0.1, 500)
      camera.position.set(...at)
      camera.quaternion.copy(rotation)
      camera.updateMatrixWorld()
      const { framed } = view
      expect(framed.width / framed.height).toBeCloseTo(aspect, 6)
      expect(framed.width).toBeLessThanOrEqual(810.001)
      expect(framed.height).toBeLessThanOrEqual(540.001)
      const seen = view.project(new Vector3(1, 1, 0.5).unproject(camera))!
      expect(seen.x).toBeCloseTo(framed.x + framed.width, 2)
      expect(seen.y).toBeCloseTo(framed.y, 2)
    }),
  )
})

it('steering a camera back leaves its picture as it was below any parent, mirrored and sized unevenly or not', () => {
  fc.assert(
    fc.property(anyVec3, anyQuat, anyScale, anyVec3, anyQuat, anyScale, (place, turned, sized, at, turn, size) => {
      const above = new Matrix4().compose(
        new Vector3(...place),
        new Quaternion(...turned).normalize(),
        new Vector3(...sized),
      )
      const camera = (rotation: Quaternion) =>
        above.clone().multiply(new Matrix4().compose(new Vector3(...at), rotation, new Vector3(...size)))
      const before = throughCamera(cameraOwn(), camera(new Quaternion(...turn).normalize()), null)
      fc.pre(Math.abs(before.pose.target.clone().sub(before.pose.eye).normalize().y) < 0.999)
      const after = throughCamera(
        cameraOwn(),
        camera(new Quaternion(...turnTo(before.pose.eye, before.pose.target, above, size, before.lens.roll)!)),
        null,
      )
      expect(after.pose.target.distanceTo(before.pose.target)).toBeLessThan(1e-6)
      expect(Math.cos(after.lens.roll - before.lens.roll)).toBeGreaterThan(1 - 1e-9)
    }),
  )
})
