import { Matrix4, Quaternion, Vector3 } from 'three'
import type { Vec3 } from '../../math/vectors'
import type { Lifts } from './bend'
import { bendOnto } from './bend'
import type { PathRule } from './rule'

/** The ground under or over a point of the world; null where there is none. */
export type GroundAt = (point: Vector3) => { point: Vector3; normal: Vector3 } | null

/** What copies that hug the ground come to stand on, and how their axes lie in the world. */
export type GroundBelow = { at: GroundAt; toWorld: Matrix4 }

/** Metres between two looks at the ground under a bent piece, and how many of them at most. */
const LOOK = 0.25
const MOST_LOOKS = 16

const UP = new Vector3(0, 1, 0)

/**
 * Lets each copy of a path that hugs the ground stand on it, upright or lying on the surface. Copies without ground
 * stay. The meshes of pieces that are bent are laid on it by `liftsOf`.
 */
export function settle(rule: PathRule, matrices: Float64Array, { at, toWorld }: GroundBelow): void {
  if (!rule.hug) return
  const toOwn = toWorld.clone().invert()
  const [matrix, place, lean] = [new Matrix4(), new Vector3(), new Quaternion()]
  for (let i = 0; i < matrices.length; i += 16) {
    const found = at(place.fromArray(matrices, i + 12).applyMatrix4(toWorld))
    if (!found) continue
    matrix.fromArray(matrices, i).setPosition(0, 0, 0)
    if (rule.stand === 'surface')
      matrix.premultiply(
        new Matrix4().makeRotationFromQuaternion(
          lean.setFromUnitVectors(UP, found.normal.clone().transformDirection(toOwn)),
        ),
      )
    matrix.setPosition(found.point.applyMatrix4(toOwn)).toArray(matrices, i)
  }
}

/**
 * How far a bent piece has to be moved, along its length, to lie on the ground; nothing if it does not hug it or lies
 * on it.
 */
export function liftsOf(rule: PathRule, index: number, { at, toWorld }: GroundBelow): Lifts {
  if (!rule.hug) return []
  const looks = Math.min(Math.ceil(rule.spacing / LOOK), MOST_LOOKS)
  const bend = bendOnto(rule, index)
  const toOwn = toWorld.clone().invert()
  const [place, target] = [new Vector3(), { position: new Vector3(), axes: new Matrix4() }]
  const lifts = Array.from({ length: looks + 1 }, (_, i): Vec3 => {
    const x = rule.begins + (rule.spacing * i) / looks
    bend.point(place.set(x, 0, 0), bend.legOf(x), target)
    const found = at(place.copy(target.position).applyMatrix4(toWorld))
    return found ? found.point.applyMatrix4(toOwn).sub(target.position).toArray() : [0, 0, 0]
  })
  return lifts.some(lift => Math.hypot(...lift) > 1e-6) ? lifts : []
}
