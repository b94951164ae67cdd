import { Plane, Quaternion, Ray, Vector3 } from 'three'
import type { Finder } from '../../scene/finder'
import type { Quat, Vec3 } from '../../math/vectors'
import { snapToStep } from './grid'
import { pointToMicrometre } from '../../math/micrometre'

/** Where a thing held by the pointer would come to stand. */
export type Landing = {
  point: Vec3
  /** Of the surface, of unit length. */
  normal: Vec3
  /** The placement whose surface it is; null for the ground plane. */
  surfaceId: string | null
}

/** How far above and below a point its surface is looked for (common practice). */
const LOOK_ABOVE = 1
const LOOK_BELOW = 10
const UP = new Vector3(0, 1, 0)

/**
 * The point of the level's surface under the pointer, or of the ground plane where there is none.
 * With a grid step it is brought onto the grid in plan and then onto the surface there.
 *
 * @param ray from the eye through the pointer, of unit direction
 * @param step in metres; 0 for none
 * @param accept leaves out what it answers false for
 * @returns null where the pointer is over neither
 */
export function findLanding(index: Finder, ray: Ray, step: number, accept?: (id: string) => boolean): Landing | null {
  const hit = index.raycast(ray, accept)
  if (hit && hit.normal.y <= 0.02) return landing(hit.point, hit.normal, hit.id)
  const point = hit ? hit.point : ray.intersectPlane(new Plane(UP, 0), new Vector3())
  if (!point) return null
  if (step === 0) return landing(point, hit?.normal ?? UP, hit?.id ?? null)
  const snapped = new Vector3(snapToStep(point.x, step), point.y, snapToStep(point.z, step))
  const below = index.raycast(new Ray(snapped.clone().setY(point.y + LOOK_ABOVE), new Vector3(0, -1, 0)), accept)
  if (below && point.y - below.point.y <= LOOK_BELOW) {
    return landing(snapped.setY(below.point.y), below.normal, below.id)
  }
  return landing(snapped, UP, null)
}

/** Meshes hold single precision; a micrometre is all there is, and 0.39 should read 0.39. */
function landing(point: Vector3, normal: Vector3, surfaceId: string | null): Landing {
  return { point: pointToMicrometre(point), normal: normal.toArray(), surfaceId }
}

/**
 * The rotation of a thing that stands upright and is turned by `heading` degrees, or leans with the surface as well.
 * @param normal of the surface, of unit length
 */
export function standingRotation(normal: Vec3, heading: number, leaning: boolean): Quat {
  const turn = new Quaternion().setFromAxisAngle(UP, (heading * Math.PI) / 180)
  if (leaning) turn.premultiply(new Quaternion().setFromUnitVectors(UP, new Vector3(...normal)))
  return turn.normalize().toArray() as Quat
}
