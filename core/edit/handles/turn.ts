import type { Ray } from 'three'
import { Matrix3, Matrix4, Plane, Quaternion, Vector3 } from 'three'
import type { Level } from '../../level/level'
import type { Operation } from '../../level/schema'
import type { Quat } from '../../math/vectors'
import { topmost } from '../../level/tree'
import { tidy } from '../../units/quantity'

/** Below this sine of the angle between the line of sight and a dial's plane, the dial is seen as a line. */
const EDGE_ON = 0.12

/**
 * Follows a pointer around a dial and counts the angle on past full turns.
 *
 * The pointer's ray is met with the dial's plane. A dial seen from its edge is turned by the pointer's way along the
 * line it is seen as: as far as its rim would go.
 */
export class TurnDrag {
  private readonly plane: Plane
  private readonly edge: { plane: Plane; along: Vector3 } | null
  private readonly first: Vector3
  private readonly second: Vector3
  private readonly point = new Vector3()
  private last: number
  private total = 0

  /**
   * @param centre of the dial, in the world
   * @param axis it turns about, of unit length
   * @param sight the direction the centre is seen in, of unit length
   * @param radius of the dial, in metres
   */
  constructor(
    ray: Ray,
    private readonly centre: Vector3,
    axis: Vector3,
    sight: Vector3,
    private readonly radius: number,
  ) {
    this.plane = new Plane().setFromNormalAndCoplanarPoint(axis, centre)
    const along = axis.clone().cross(sight)
    this.edge =
      Math.abs(axis.dot(sight)) < EDGE_ON
        ? { plane: new Plane().setFromNormalAndCoplanarPoint(sight, centre), along: along.normalize().negate() }
        : null
    // Any pair at right angles that turns the right way round.
    this.first = new Vector3(Math.abs(axis.x) < 0.9 ? 1 : 0, Math.abs(axis.x) < 0.9 ? 0 : 1, 0).cross(axis).normalize()
    this.second = axis.clone().cross(this.first)
    this.last = this.reading(ray) ?? 0
  }

  /** Degrees since the drag began, positive by the right hand; the last good value where the ray meets nothing. */
  update(ray: Ray): number {
    const now = this.reading(ray)
    if (now === null) return this.total
    let step = now - this.last
    // The nearer way round; the edge's reading is no angle and may grow at will.
    if (!this.edge) step -= Math.round(step / 360) * 360
    this.last = now
    this.total += step
    return this.total
  }

  private reading(ray: Ray): number | null {
    if (!ray.intersectPlane(this.edge?.plane ?? this.plane, this.point)) return null
    this.point.sub(this.centre)
    if (this.edge) return ((this.point.dot(this.edge.along) / this.radius) * 180) / Math.PI
    const [x, y] = [this.point.dot(this.first), this.point.dot(this.second)]
    return x === 0 && y === 0 ? null : (Math.atan2(y, x) * 180) / Math.PI
  }
}

/** The angle a rotation turns about an axis, in degrees from -180 to 180: the twist of swing and twist. */
export function twistAbout(rotation: Quaternion, axis: Vector3): number {
  const along = rotation.x * axis.x + rotation.y * axis.y + rotation.z * axis.z
  if (along === 0 && rotation.w === 0) return 180
  const angle = (2 * Math.atan2(along, rotation.w) * 180) / Math.PI
  return angle - Math.round(angle / 360) * 360
}

/**
 * A turn by degrees about an axis. Quarter turns come out exact, so that a thing set upright by 90 degrees is upright
 * to the bit.
 */
export function turnAbout(axis: Vector3, degrees: number): Quaternion {
  return new Quaternion(...tidyQuat(new Quaternion().setFromAxisAngle(axis, (degrees * Math.PI) / 180)))
}

/**
 * The operations that turn placements in the world: each one's pivot goes around `around`, and it turns itself by as
 * much.
 *
 * Inside a parent whose size is uneven no turn of the child's own numbers gives exactly that; then the nearest one is
 * taken (the rotation of the polar decomposition), and the parent's size goes on acting on the child afterwards.
 *
 * @param around a point of the world, or null: each around its own pivot
 */
export function turnPlacements(
  level: Level,
  ids: Iterable<string>,
  turn: Quaternion,
  around: Vector3 | null,
): Operation[] {
  return topmost(level, new Set(ids)).map(id => {
    const { parentId, translation, rotation } = level.need(id)
    const parent = level.parentMatrix(id)
    const own = new Quaternion(...rotation)
    const fields: { rotation: Quat; translation?: [number, number, number] } = {
      rotation: tidyQuat(parentId === null ? turn.clone().multiply(own) : turnInside(parent, turn).multiply(own)),
    }
    if (around) {
      const pivot = new Vector3(...translation)
      if (parentId !== null) pivot.applyMatrix4(parent)
      pivot.sub(around).applyQuaternion(turn).add(around)
      if (parentId !== null) pivot.applyMatrix4(parent.clone().invert())
      fields.translation = [tidy(pivot.x), tidy(pivot.y), tidy(pivot.z)]
    }
    return { do: 'put', id, fields }
  })
}

/** The rotation that, done before a parent's matrix, comes nearest to `turn` done after it. */
export function turnInside(parent: Matrix4, turn: Quaternion): Quaternion {
  const outside = new Matrix4().makeRotationFromQuaternion(turn)
  return nearestRotation(
    parent
      .clone()
      .setPosition(0, 0, 0)
      .invert()
      .multiply(outside)
      .multiply(parent.clone().setPosition(0, 0, 0)),
  )
}

/**
 * The rotation nearest to a matrix of positive determinant: the orthogonal factor of its polar decomposition, by
 * Newton's iteration X ← (X + X⁻ᵀ) / 2 (Higham 1986, from memory).
 */
export function nearestRotation(matrix: Matrix4): Quaternion {
  let at = new Matrix3().setFromMatrix4(matrix)
  for (let i = 0; i < 30; i++) {
    const other = at.clone().invert().transpose()
    const next = at.clone()
    next.elements.forEach((value, k) => (next.elements[k] = (value + other.elements[k]!) / 2))
    const change = Math.max(...next.elements.map((value, k) => Math.abs(value - at.elements[k]!)))
    at = next
    if (change < 1e-15) break
  }
  return new Quaternion().setFromRotationMatrix(new Matrix4().setFromMatrix3(at)).normalize()
}

/** Of unit length, with crumbs below 1e-15 taken off, and positive where the sign is free. */
function tidyQuat(rotation: Quaternion): Quat {
  const clean = rotation
    .normalize()
    .toArray()
    .map(value => (Math.abs(value) < 1e-15 ? 0 : value)) as Quat
  return clean[3] < 0 ? (clean.map(value => -value + 0) as Quat) : clean
}
