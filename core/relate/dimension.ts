import { Matrix3, Vector3 } from 'three'
import type { Relation } from '../level/schema'
import type { LevelView } from '../scene/level-view'
import { holdersOf } from './graph'

/** A kept distance as it is drawn: from what holds it, along what it is kept, over to the thing's own point. */
export type KeptDimension = { from: Vector3; to: Vector3; point: Vector3; metres: number }

/** The distance that a relation keeps, as it is drawn on a plan; null for one that keeps none, or cannot be. */
export function dimensionOf(level: LevelView, relation: Relation): KeptDimension | null {
  const { rule, held, holders } = relation
  if (![held, ...holdersOf(relation)].every(id => level.has(id))) return null
  const { at, on, point: own } = holders[0]!
  if (on !== null && !level.has(on)) return null
  const from = on === null ? new Vector3(...at) : new Vector3(...own).applyMatrix4(level.worldMatrix(on))
  const point = new Vector3(...relation.point).applyMatrix4(level.worldMatrix(held))
  if (rule.kind === 'apart') {
    const to = rule.along === null ? point.clone() : along(from, point, new Vector3(...rule.along))
    return { from, to, point, metres: Math.abs(rule.distance) }
  }
  if (rule.kind !== 'flush' || rule.gap === 0) return null
  const look = new Vector3(...rule.against)
  if (on !== null) look.applyMatrix3(new Matrix3().getNormalMatrix(level.worldMatrix(on))).normalize()
  // Where the plane is before the thing's own point.
  return { from: along(point, from, look), to: point.clone(), point, metres: Math.abs(rule.gap) }
}

const along = (from: Vector3, to: Vector3, direction: Vector3) =>
  from.clone().addScaledVector(direction, direction.dot(to.clone().sub(from)))
