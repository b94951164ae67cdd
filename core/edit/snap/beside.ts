import { Quaternion, Ray, Vector3 } from 'three'
import type { Finder } from '../../scene/finder'
import type { Quat, Vec3 } from '../../math/vectors'
import type { Solid } from '../../mesh/solid'
import type { Landing } from './landing'
import { pointToMicrometre } from '../../math/micrometre'

/**
 * What a thing put onto a steep side does: it stands on what is below, against the side, or hangs at the height that
 * was pointed at.
 */
export const STEEP_SIDES = ['stands', 'hangs'] as const
export type SteepSide = (typeof STEEP_SIDES)[number]

/**
 * Upward part of the normal of a surface of 45 degrees: what is steeper is a side (common practice; nobody walks up
 * it).
 */
const STEEP = Math.SQRT1_2
/** How far below a place something to stand on is looked for, in metres. */
const LOOK_BELOW = 10
/** From how far above a side's own point it is looked for: a thing may be put against the foot of a wall. */
const LOOK_ABOVE = 0.02
/** On a leaning side what is below lies elsewhere for each height. */
const ROUNDS = 4

/**
 * Where a thing is that was put onto a side, and what it stands on: a placement, or null for the ground plane;
 * undefined where it hangs.
 */
export type Beside = { point: Vec3; standsOn?: string | null }

/** Whether a surface is too steep to stand upright on. */
export const isSteep = ({ normal }: Pick<Landing, 'normal'>): boolean => normal[1] < STEEP

/**
 * Where a thing stands that is put onto a steep side, keeping its turn: out of the side along its normal until it
 * touches and nothing of it is within.
 *
 * @param index where it is looked for what is below
 * @param landing the side, and the point of it that was pointed at
 * @param solid what is put there, @param pivot of it, in its own axes, @param rotation to the world
 */
export function beside(
  index: Finder,
  { point, normal }: Landing,
  solid: Solid,
  pivot: Vec3,
  rotation: Quat,
  does: SteepSide,
): Beside {
  const out = new Vector3(...normal)
  const touched = new Vector3(...point)
  const turn = new Quaternion(...rotation)
  const corner = new Vector3()
  // How far it reaches from its pivot towards the side, and below.
  let [inwards, below] = [-Infinity, Infinity]
  solid.eachPlace((x, y, z) => {
    corner.set(x - pivot[0], y - pivot[1], z - pivot[2]).applyQuaternion(turn)
    inwards = Math.max(inwards, -corner.dot(out))
    below = Math.min(below, corner.y)
  })
  const hung = touched.clone().addScaledVector(out, inwards)
  const level = out.clone().setY(0)
  // What faces down has nothing beside it.
  if (does === 'hangs' || level.length() < 1 - STEEP) return { point: pointToMicrometre(hung) }
  const along = level.length()
  level.normalize()
  const at = hung.clone()
  let standsOn: string | null = null
  for (let round = 0; round < ROUNDS; round++) {
    const down = new Ray(at.clone().setY(touched.y + LOOK_ABOVE), DOWN)
    const ground = index.raycast(down)
    const isThere = ground !== null && touched.y - ground.point.y <= LOOK_BELOW
    standsOn = isThere ? ground.id : null
    const height = (isThere ? ground.point.y : Math.min(0, touched.y)) - below
    if (!isThere && touched.y < 0) return { point: pointToMicrometre(hung) }
    // Out along the level way until the side's plane is touched at that height.
    const way = (inwards - (height - touched.y) * out.y) / along
    at.copy(touched).addScaledVector(level, way).setY(height)
  }
  return { point: pointToMicrometre(at), standsOn }
}

const DOWN = new Vector3(0, -1, 0)
