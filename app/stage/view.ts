import CameraControls from 'camera-controls'
import { Box3, Matrix4, PerspectiveCamera, Quaternion, Ray, Raycaster, Sphere, Spherical, Vector2, Vector3, Vector4 } from 'three'
import type { ScreenPoint } from '~~/core/geometry/screen'
import type { ViewDirections } from '~~/core/handles/axis-drag'

CameraControls.install({ THREE: { Box3, Matrix4, Quaternion, Raycaster, Sphere, Spherical, Vector2, Vector3, Vector4 } })

/** One look at the world: a camera, how it is steered, and the way between screen and world. Pixels count from the canvas's top left. */
export class View {
  readonly camera = new PerspectiveCamera(50, 1, 0.05, 2000)
  private readonly controls: CameraControls
  private width = 1
  private height = 1

  /** @param calm leaves out the gliding of the camera */
  constructor(canvas: HTMLCanvasElement, calm: boolean, onMove: () => void) {
    this.controls = new CameraControls(this.camera, canvas)
    const { ACTION } = CameraControls
    Object.assign(this.controls.mouseButtons, { left: ACTION.NONE, middle: ACTION.NONE, right: ACTION.NONE, wheel: ACTION.DOLLY })
    Object.assign(this.controls.touches, { one: ACTION.TOUCH_ROTATE, two: ACTION.TOUCH_DOLLY_TRUCK, three: ACTION.TOUCH_TRUCK })
    this.controls.dollyToCursor = true
    this.controls.minDistance = 0.2
    this.controls.maxDistance = 1500
    this.controls.smoothTime = calm ? 0 : 0.12
    this.controls.draggingSmoothTime = calm ? 0 : 0.04
    this.controls.addEventListener('update', onMove)
    this.controls.addEventListener('control', onMove)
    this.controls.addEventListener('transitionstart', onMove)
  }

  /** Moves the camera on by some seconds. @returns whether it is still moving */
  update(seconds: number): boolean {
    return this.controls.update(seconds)
  }

  /** Whether the wheel zooms; off while it means something else. */
  set wheelZooms(on: boolean) {
    this.controls.mouseButtons.wheel = on ? CameraControls.ACTION.DOLLY : CameraControls.ACTION.NONE
  }

  resize(width: number, height: number): void {
    this.width = width
    this.height = height
    this.camera.aspect = width / height
    this.camera.updateProjectionMatrix()
  }

  /** Turns around the orbit centre by as much as a drag over `dx`, `dy` pixels means. */
  orbit(dx: number, dy: number): void {
    const turn = 2 * Math.PI / this.height
    void this.controls.rotate(-dx * turn, -dy * turn, false)
  }

  /** Shifts the view so that what lies at the orbit centre follows the pointer. */
  pan(dx: number, dy: number): void {
    const perPixel = 2 * this.controls.distance * Math.tan(this.camera.fov * Math.PI / 360) / this.height
    void this.controls.truck(-dx * perPixel, -dy * perPixel, false)
  }

  /** Turns the head: the eye stays, the orbit centre goes round it. */
  lookAround(dx: number, dy: number): void {
    const { controls } = this
    const eye = controls.getPosition(new Vector3())
    const away = controls.getTarget(new Vector3()).sub(eye)
    const sphere = new Spherical().setFromVector3(away)
    const turn = this.camera.fov * Math.PI / 180 / this.height
    sphere.theta += dx * turn
    sphere.phi = Math.min(Math.max(sphere.phi - dy * turn, 0.02), Math.PI - 0.02)
    const target = eye.clone().add(away.setFromSpherical(sphere))
    void controls.setLookAt(...eye.toArray(), ...target.toArray(), false)
  }

  /** Brings a box into view without turning the head. */
  frame(box: Box3, glide: boolean): void {
    if (box.isEmpty()) return
    const sphere = box.getBoundingSphere(new Sphere())
    sphere.radius = Math.max(sphere.radius, 0.3) * 1.05
    void this.controls.fitToSphere(sphere, glide)
  }

  lookFrom(eye: Vector3, target: Vector3): void {
    void this.controls.setLookAt(...eye.toArray(), ...target.toArray(), false)
  }

  get target(): Vector3 {
    return this.controls.getTarget(new Vector3())
  }

  /** The ray from the eye through a pixel, of unit direction. */
  rayAt({ x, y }: ScreenPoint, target = new Ray()): Ray {
    this.camera.updateMatrixWorld()
    target.origin.setFromMatrixPosition(this.camera.matrixWorld)
    target.direction.set(x / this.width * 2 - 1, 1 - y / this.height * 2, 0.5).unproject(this.camera).sub(target.origin).normalize()
    return target
  }

  /** Where a point of the world is on the screen; null behind the eye. */
  project(point: Vector3): ScreenPoint | null {
    this.camera.updateMatrixWorld()
    const seen = point.clone().applyMatrix4(this.camera.matrixWorldInverse)
    if (seen.z > -this.camera.near) return null
    seen.applyMatrix4(this.camera.projectionMatrix)
    return { x: (seen.x + 1) / 2 * this.width, y: (1 - seen.y) / 2 * this.height }
  }

  directions(): ViewDirections {
    this.camera.updateMatrixWorld()
    const [right, up, back] = [new Vector3(), new Vector3(), new Vector3()]
    this.camera.matrixWorld.extractBasis(right, up, back)
    return { right, up, forward: back.negate() }
  }

  /** How many metres one pixel spans at a point of the world. */
  metresPerPixel(point: Vector3): number {
    const depth = Math.max(point.clone().applyMatrix4(this.camera.matrixWorldInverse).negate().z, this.camera.near)
    return 2 * depth * Math.tan(this.camera.fov * Math.PI / 360) / this.height
  }

  dispose(): void {
    this.controls.dispose()
  }
}
