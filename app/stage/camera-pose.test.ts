import fc from 'fast-check'
import { Box3, Matrix4, PerspectiveCamera, Quaternion, Vector3 } from 'three'
import { expect, it } from 'vitest'
import { cameraOwn } from '../../core/level/create'
import { anyQuat, anyVec3 } from '../../tests/support'
import { cameraAt, throughCamera } from './camera-pose'
import { View } from './view'

const anyCamera = fc.record({ at: anyVec3, turn: anyQuat, aspect: fc.double({ min: 0.3, max: 3, noNaN: true }), fieldOfView: fc.double({ min: 8, max: 140, noNaN: true }) })

it('a view sees through a camera what three\'s camera sees there, and steering it back leaves it as it was, roll and all', () => {
  fc.assert(fc.property(anyCamera, ({ at, turn, aspect, fieldOfView }) => {
    const rotation = new Quaternion(...turn)
    const way = new Vector3(0, 0, -1).applyQuaternion(rotation)
    fc.pre(Math.abs(way.y) < 0.999)
    const matrix = new Matrix4().compose(new Vector3(...at), rotation, new Vector3(1, 1, 1))
    const { pose, lens } = throughCamera(cameraOwn({ aspect, fieldOfView, near: 0.1, far: 500 }), matrix, null)
    const again = cameraAt(pose, lens.roll)
    expect(again.position.distanceTo(new Vector3(...at))).toBeLessThan(1e-9)
    expect(again.turn.angleTo(rotation)).toBeLessThan(1e-6)

    // The corners of its picture lie on the frame in the pane.
    const view = new View('walkaround', true, () => new Box3(), () => {})
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
  }))
})
