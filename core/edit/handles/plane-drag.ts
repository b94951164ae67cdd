import type { Ray } from 'three'
import { Plane, Vector3 } from 'three'

/** Follows a pointer over a plane through `origin`. */
export class PlaneDrag {
  private readonly plane = new Plane()
  private readonly start = new Vector3()
  private readonly point = new Vector3()
  private readonly offset = new Vector3()

  /** @param normal unit vector */
  constructor(ray: Ray, origin: Vector3, normal: Vector3) {
    this.plane.setFromNormalAndCoplanarPoint(normal, origin)
    if (!ray.intersectPlane(this.plane, this.start)) this.start.copy(origin)
  }

  /**
   * The way over the plane since the drag began, in the world; the last good one where the ray meets nothing. Copy it
   * to keep it.
   */
  update(ray: Ray): Vector3 {
    if (ray.intersectPlane(this.plane, this.point)) this.offset.copy(this.point).sub(this.start)
    return this.offset
  }
}
