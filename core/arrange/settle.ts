import { Matrix4, Quaternion, Vector3 } from 'three'
import type { LevelDocument } from '../level/document'
import { isArrangement } from './arrangement'
import type { Rule } from './rule'

/** The ground under or over a point of the world; null where there is none. */
export type GroundAt = (point: Vector3) => { point: Vector3, normal: Vector3 } | null

/** What copies that hug the ground come to stand on, and how their axes lie in the world. */
export type GroundBelow = { at: GroundAt, toWorld: Matrix4 }

/** Whether a placement is an arrangement whose copies stand wherever the ground is. */
export function hugsGround(own: object): boolean {
  return isArrangement(own) && own.rule.rule === 'path' && own.rule.hug && !own.rule.bent
}

/** @param toWorld the arrangement's, while it is being dragged for instance */
export function groundBelow({ ground }: LevelDocument, toWorld: Matrix4): GroundBelow | null {
  return ground && { at: ground, toWorld }
}

const UP = new Vector3(0, 1, 0)

/** Lets each copy of a path that hugs the ground stand on it, upright or lying on the surface. Copies without ground stay. */
export function settle(rule: Rule, matrices: Float64Array, { at, toWorld }: GroundBelow): void {
  if (rule.rule !== 'path' || !rule.hug || rule.bent) return
  const toOwn = toWorld.clone().invert()
  const [matrix, place, lean] = [new Matrix4(), new Vector3(), new Quaternion()]
  for (let i = 0; i < matrices.length; i += 16) {
    const found = at(place.fromArray(matrices, i + 12).applyMatrix4(toWorld))
    if (!found) continue
    matrix.fromArray(matrices, i).setPosition(0, 0, 0)
    if (rule.stand === 'surface') matrix.premultiply(new Matrix4().makeRotationFromQuaternion(lean.setFromUnitVectors(UP, found.normal.clone().transformDirection(toOwn))))
    matrix.setPosition(found.point.applyMatrix4(toOwn)).toArray(matrices, i)
  }
}
