import type { Matrix4 } from 'three'
import { Quaternion, Ray, Vector3 } from 'three'
import type { Finder } from '../../scene/finder'
import { UP } from '../handles/axes'
import { pivotOf } from '../handles/pivot'
import { turnPlacements } from '../handles/turn'
import type { Level } from '../../level/level'
import type { Rest } from '../../level/relation'
import type { Operation, Placement, PlacementFields } from '../../level/schema'
import { tidy } from '../../units/quantity'
import { pointToMicrometre } from '../../math/micrometre'

/** How things come to rest on a surface. */
export type RestRule = {
  rest: Rest
  /** Laid along the surface instead of keeping the turn it has. */
  leaning: boolean
  /** Metres kept between thing and surface. */
  offset: number
}

export type Surface = { point: Vector3; normal: Vector3 }

/** Whether a placement's shape may be rested on. */
export type IsGround = (id: string) => boolean

/** A surface steeper than this is a wall: things stand off it instead of on it. */
export const WALL = 0.02

/**
 * How a placement touches a surface of one direction: the turn that brings it there, and how far it then reaches below
 * its pivot.
 */
type Pose = { turn: Quaternion; contact: Vector3; reach: number; rotation: Pick<PlacementFields, 'rotation'> | null }

/**
 * One placement that comes to rest, on one surface after the other: what does not depend on where the surface is is
 * worked out once for each direction of it, until the placement is written.
 */
export class Resting {
  /** In the world. */
  readonly pivot: Vector3
  private readonly world: Matrix4
  private readonly placement: Placement
  private readonly poses = new Map<string, Pose>()
  /** From ways in the world to ways in its parent's axes. */
  private readonly inParent: Matrix4 | null

  constructor(
    private readonly level: Level,
    private readonly index: Finder,
    private readonly id: string,
  ) {
    this.pivot = pivotOf(level, id)
    this.world = level.worldMatrix(id)
    this.placement = level.need(id)
    this.inParent =
      this.placement.parentId === null ? null : level.parentMatrix(id).clone().invert().setPosition(0, 0, 0)
  }

  /** Whether it still is as it was when this was made. */
  get isCurrent(): boolean {
    return this.level.get(this.id) === this.placement && this.level.worldMatrix(this.id) === this.world
  }

  /**
   * Where it comes to rest: the turn and the move, in the world, that bring it there.
   *
   * Upright, it keeps its turn, and its lowest point is at the height of the surface's point, or none of its points
   * below the surface's plane. Leaning, that of its own axes that points up most is laid along the surface's normal, by
   * the smallest turn, and its lowest point is on the surface's plane. In plan its pivot stays over the surface's
   * point, unless the surface is a wall.
   */
  on({ point, normal }: Surface, rule: RestRule): { turn: Quaternion; move: Vector3 } {
    const { turn, contact, reach } = this.poseOn(normal, rule)
    const target = point.clone()
    if (contact.y > 0.5) target.y += (reach + rule.offset) / contact.y
    else target.addScaledVector(contact, reach + rule.offset)
    return { turn, move: target.sub(this.pivot) }
  }

  /** The operation that brings it there. */
  putOn(surface: Surface, rule: RestRule): Operation {
    const { move } = this.on(surface, rule)
    return this.put(this.poseOn(surface.normal, rule).rotation, move)
  }

  /** The operation that turns it as on a surface but moves it otherwise. @param way in the world */
  turnAndMove(normal: Vector3, rule: RestRule, way: Vector3): Operation {
    return this.put(this.poseOn(normal, rule).rotation, way)
  }

  private put(rotation: Pick<PlacementFields, 'rotation'> | null, way: Vector3): Operation {
    const inside = this.inParent ? way.clone().applyMatrix4(this.inParent) : way
    const {
      translation: [x, y, z],
    } = this.placement
    return {
      do: 'put',
      id: this.id,
      fields: { ...rotation, translation: [tidy(x + inside.x), tidy(y + inside.y), tidy(z + inside.z)] },
    }
  }

  private poseOn(normal: Vector3, { rest, leaning }: RestRule): Pose {
    const key = `${rest} ${leaning} ${normal.x} ${normal.y} ${normal.z}`
    let pose = this.poses.get(key)
    if (!pose) this.poses.set(key, (pose = this.findPose(normal.clone(), rest, leaning)))
    return pose
  }

  private findPose(normal: Vector3, rest: Rest, leaning: boolean): Pose {
    const { level, id, pivot } = this
    const turn = leaning
      ? new Quaternion().setFromUnitVectors(uppermost(level.worldMatrix(id)), normal)
      : new Quaternion()
    const contact = leaning || rest === 'clear' || normal.y <= WALL ? normal : UP.clone()
    // How far below its pivot the thing reaches, once turned.
    const down = contact.clone().negate().applyQuaternion(turn.clone().invert())
    const lowest = rest !== 'pivot' ? this.index.extents.extreme(level.subtree(id), down) : null
    const [turned] = turn.w === 1 ? [] : turnPlacements(level, [id], turn, null)
    return {
      turn,
      contact,
      reach: lowest ? lowest.reach - pivot.dot(down) : 0,
      rotation: turned?.do === 'put' ? { rotation: turned.fields.rotation! } : null,
    }
  }
}

/** That of a thing's own six directions that points up most, in the world. @param matrix from its axes to the world */
export function uppermost(matrix: Matrix4): Vector3 {
  const axes = [new Vector3(), new Vector3(), new Vector3()] as const
  matrix.extractBasis(...axes)
  return axes
    .map(axis => axis.normalize())
    .map(axis => (axis.y < 0 ? axis.negate() : axis))
    .sort((a, b) => b.y - a.y)[0]!
}

/** What lies straight below a point, no farther than `reach` metres. */
export function surfaceBelow(
  index: Finder,
  from: Vector3,
  reach: number,
  accept: IsGround,
): (Surface & { id: string }) | null {
  const hit = index.raycast(new Ray(from.clone(), new Vector3(0, -1, 0)), accept)
  if (!hit || hit.distance > reach) return null
  // Meshes hold single precision; a crate on a slab at 0.39 should stand at 0.39.
  hit.point.set(...pointToMicrometre(hit.point))
  return hit
}
