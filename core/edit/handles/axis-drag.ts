import type { Ray } from 'three'
import { Plane, Vector3 } from 'three'

/** How a pane looks at the world: unit vectors, right-handed. */
export type ViewDirections = { right: Vector3; up: Vector3; forward: Vector3 }

/**
 * Follows a pointer along a line through `origin`.
 *
 * The pointer's ray is met with the plane through the line that faces the viewer most, and the meeting point is dropped
 * onto the line. Seen nearly end-on (within about 8 degrees) that plane no longer means anything on the screen; then
 * the pointer's way up and down the screen is taken instead, up being away from the viewer.
 */
export class AxisDrag {
  private readonly plane = new Plane()
  private readonly endOn: boolean
  /** What a step along the screen's up means on the axis, when seen end-on. */
  private readonly away: number
  private readonly point = new Vector3()
  private start = 0
  private last = 0

  /** @param axis unit vector */
  constructor(
    ray: Ray,
    private readonly origin: Vector3,
    private readonly axis: Vector3,
    private readonly view: ViewDirections,
  ) {
    const sight = ray.direction
    this.endOn = Math.abs(axis.dot(sight)) > 0.99
    this.away = axis.dot(sight) < 0 ? -1 : 1
    const normal = this.endOn ? view.forward.clone() : axis.clone().cross(sight).cross(axis).normalize()
    this.plane.setFromNormalAndCoplanarPoint(normal, origin)
    this.start = this.position(ray)
    this.last = 0
  }

  /** Metres along the axis since the drag began; the last good value where the ray meets nothing. */
  update(ray: Ray): number {
    this.last = this.position(ray) - this.start
    return this.last
  }

  private position(ray: Ray): number {
    if (!ray.intersectPlane(this.plane, this.point)) return this.start + this.last
    this.point.sub(this.origin)
    return this.endOn ? this.point.dot(this.view.up) * this.away : this.point.dot(this.axis)
  }
}
