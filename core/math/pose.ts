import type { Box3 } from 'three'
import { MathUtils, Quaternion, Sphere, Vector3 } from 'three'

/**
 * Where a view looks from and to. Walkaround looks in perspective from `eye`, upright; Plan, Front and Side look along
 * fixed directions, from so far away that only `target` and `height` count.
 */
export type Pose = {
  eye: Vector3
  /** What is orbited around and zoomed at unless something better is known; always before the eye. */
  target: Vector3
  /** Of an orthographic view: how many metres the pane is high. */
  height: number
}

export type ViewKind = 'walkaround' | 'plan' | 'front' | 'side'

/** Directions of the fixed views: Plan from above with -Z at the top of the sheet, Front from +Z, Side from +X. */
export const FIXED_VIEWS: Record<Exclude<ViewKind, 'walkaround'>, { forward: Vector3; up: Vector3 }> = {
  plan: { forward: new Vector3(0, -1, 0), up: new Vector3(0, 0, -1) },
  front: { forward: new Vector3(0, 0, -1), up: new Vector3(0, 1, 0) },
  side: { forward: new Vector3(-1, 0, 0), up: new Vector3(0, 1, 0) },
}

const UP = new Vector3(0, 1, 0)
/** How near the sight may come to the vertical, in radians, so that there is always an up on the screen. */
const STEEPEST = MathUtils.degToRad(89.9)

/**
 * Turns the view around a point: what lies there stays where it is on the screen.
 *
 * @param yaw about the vertical, in radians, to the left as the viewer goes to the right
 * @param pitch about the screen's horizontal, in radians; stops short of the vertical
 */
export function orbit({ eye, target, height }: Pose, around: Vector3, yaw: number, pitch: number): Pose {
  const rotation = headTurn(eye, target, yaw, pitch)
  const turned = (point: Vector3) => point.clone().sub(around).applyQuaternion(rotation).add(around)
  return { eye: turned(eye), target: turned(target), height }
}

/** Turns the head: the eye stays. Angles as for `orbit`. */
export function lookAround({ eye, target, height }: Pose, yaw: number, pitch: number): Pose {
  const sight = target
    .clone()
    .sub(eye)
    .applyQuaternion(headTurn(eye, target, yaw, pitch))
  return { eye: eye.clone(), target: eye.clone().add(sight), height }
}

function headTurn(eye: Vector3, target: Vector3, yaw: number, pitch: number): Quaternion {
  const sight = target.clone().sub(eye).normalize()
  const steepness = Math.asin(MathUtils.clamp(sight.y, -1, 1))
  const allowed = MathUtils.clamp(steepness + pitch, -STEEPEST, STEEPEST) - steepness
  const right = sight.clone().cross(UP).normalize()
  return new Quaternion().setFromAxisAngle(UP, yaw).multiply(new Quaternion().setFromAxisAngle(right, allowed))
}

/** Shifts eye and target alike. */
export function shift({ eye, target, height }: Pose, by: Vector3): Pose {
  return { eye: eye.clone().add(by), target: target.clone().add(by), height }
}

/** How near the eye may come to what it zooms at, and how far it may go, in metres. */
const NEAREST = 0.05
const FARTHEST = 20_000

/**
 * Goes towards a point of the world by a factor; the point stays where it is on the screen.
 *
 * @param factor below 1 nearer, above 1 farther
 */
export function zoomAt({ eye, target, height }: Pose, point: Vector3, factor: number): Pose {
  const distance = eye.distanceTo(point)
  const limited = MathUtils.clamp(distance * factor, NEAREST, FARTHEST) / distance
  const scaled = (from: Vector3) => from.clone().sub(point).multiplyScalar(limited).add(point)
  return { eye: scaled(eye), target: scaled(target), height: MathUtils.clamp(height * factor, 0.02, FARTHEST) }
}

/**
 * Brings a box into view without turning the head.
 *
 * @param fieldOfView vertical, in degrees
 * @param aspect width of the pane over its height
 */
export function frameBox({ eye, target }: Pose, box: Box3, fieldOfView: number, aspect: number): Pose {
  const sphere = box.getBoundingSphere(new Sphere())
  const radius = Math.max(sphere.radius, 0.25) * 1.05
  const vertical = MathUtils.degToRad(fieldOfView)
  const distance = radius / Math.sin(Math.min(vertical, horizontalAngle(vertical, aspect)) / 2)
  const back = eye.clone().sub(target).normalize()
  return { eye: sphere.center.clone().addScaledVector(back, distance), target: sphere.center, height: 2 * radius }
}

/** The same for a fixed view, whose pane need only be as high and wide as the box is seen from there. */
export function frameBoxFixed(
  { eye, target }: Pose,
  box: Box3,
  kind: Exclude<ViewKind, 'walkaround'>,
  aspect: number,
): Pose {
  const { forward, up } = FIXED_VIEWS[kind]
  const right = forward.clone().cross(up)
  const size = box.getSize(new Vector3())
  const along = (direction: Vector3) =>
    Math.abs(direction.x) * size.x + Math.abs(direction.y) * size.y + Math.abs(direction.z) * size.z
  const middle = box.getCenter(new Vector3())
  return {
    eye: eye.clone().sub(target).add(middle),
    target: middle,
    height: Math.max(along(up), along(right) / aspect, 0.5) * 1.1,
  }
}

/** The horizontal angle of a view with a vertical one, in radians: tan(h/2) = aspect · tan(v/2). */
export function horizontalAngle(vertical: number, aspect: number): number {
  return 2 * Math.atan(aspect * Math.tan(vertical / 2))
}

/**
 * The near and far distances that cut neither a close detail nor the far side of the level.
 * A depth buffer of 24 bits tells things apart best near the near distance, so that follows what is looked at.
 *
 * @param level the box around everything; may be empty
 */
export function clipDistances({ eye, target }: Pose, level: Box3): { near: number; far: number } {
  const looked = eye.distanceTo(target)
  const reach = level.isEmpty() ? 0 : Math.max(...corners(level).map(corner => corner.distanceTo(eye)))
  return { near: MathUtils.clamp(looked * 0.01, 0.005, 0.5), far: Math.max(reach * 1.05, looked * 4, 200) }
}

function corners({ min, max }: Box3): Vector3[] {
  return [0, 1, 2, 3, 4, 5, 6, 7].map(
    i => new Vector3(i & 1 ? max.x : min.x, i & 2 ? max.y : min.y, i & 4 ? max.z : min.z),
  )
}
