import { Quaternion, Vector3 } from 'three'
import { axesOfMatrix } from '../edit/handles/axes'
import { turnInside } from '../edit/handles/turn'
import type { RelationKind, RuleOf } from '../level/relation'
import type { Relation } from '../level/schema'
import type { Quat } from '../math/vectors'
import type { WrittenAxes } from '../units/height'
import type { Finder } from '../scene/finder'
import type { Standing } from './standing'

/** What a relation is worked out from: how things stand, by now. */
export type Given<K extends RelationKind> = {
  standing: Standing
  finder: Finder
  relation: Offer
  rule: RuleOf<K>
}

/** A relation that could be made: one without an id. */
export type Offer = Omit<Relation, 'id'>

/** What any relation is worked out from. */
export const givenOf = <R extends Offer>(standing: Standing, finder: Finder, relation: R) => ({
  standing,
  finder,
  relation,
  rule: relation.rule,
})

/** A kept distance: from what holds it, along what it is kept, over to the thing's own point. */
export type KeptDimension = { from: Vector3; to: Vector3; point: Vector3; metres: number }

/** Of a thing's place: its pivot has to go so far along a direction of unit length. */
export type Wanted = { along: Vector3; by: number }

/** What a thing is moved by hand in. */
export type ByHand = { moved: Vector3; isTurned: boolean; isSized: boolean }

/** What becomes of a relation whose thing was moved by hand: other fields, or it is let go of. */
export type Adopted = Partial<Pick<Relation, 'rule' | 'holders'>> | 'let go'

/** What a relation takes besides directions of the place. */
export type Freedom = 'turn' | 'size'

/** All there is to know about one kind of relation. */
export type RelationDefinition<K extends RelationKind> = {
  /** How it is said of a thing: `by` are the names of its holders. */
  says: (rule: RuleOf<K>, by: readonly string[], length: (metres: number) => string, axes: WrittenAxes) => string
  /** The number by which it is kept, if there is one. @param holders how many things hold it */
  number?: {
    label: string
    quantity: 'length' | 'factor'
    of: (rule: RuleOf<K>, holders: number) => number | null
    with: (rule: RuleOf<K>, value: number) => RuleOf<K>
  }
  /** What it takes of turn and size; of the place it takes what it asks for. */
  takes: (rule: RuleOf<K>) => readonly Freedom[]
  /** Which of the three numbers of that it takes; all, where this is left out. */
  takesOf?: (rule: RuleOf<K>) => readonly (0 | 1 | 2)[]
  /** How it asks its thing to be turned, in its parent's axes and about its pivot; null if it cannot be. */
  turn?: (given: Given<K>) => Quat | null
  /** The factors of its size along its own axes that it asks for; null if it cannot be. */
  size?: (given: Given<K>) => Vector3 | null
  /** What it asks of the place; null if it cannot be, as when nothing is below. */
  place?: (given: Given<K>) => readonly Wanted[] | null
  /** Whether what it asks of the place depends on the place. */
  bends?: (rule: RuleOf<K>) => boolean
  /** The distance that it keeps, as it is drawn on a plan; null if it keeps none. */
  dimension?: (given: Omit<Given<K>, 'finder'>) => KeptDimension | null
  /** What becomes of it when its thing is moved by hand and its holders are not. */
  adopt: (given: Given<K>, byHand: ByHand) => Adopted
}

/** Where a relation's own point is, in the world. */
export const pointOf = ({ standing, relation: { held, point } }: Pick<Given<RelationKind>, 'standing' | 'relation'>) =>
  new Vector3(...point).applyMatrix4(standing.matrixOf(held))

/** How a thing is turned in its parent's axes after a turn in the world; below an uneven parent it comes near only. */
export function turnedBy(
  { standing, relation: { held } }: Pick<Given<RelationKind>, 'standing' | 'relation'>,
  turn: Quaternion,
): Quat {
  if (turn.x === 0 && turn.y === 0 && turn.z === 0) return standing.placement(held).rotation
  const inside = standing.parentOf(held) === null ? turn.clone() : turnInside(standing.parentMatrix(held), turn)
  return inside
    .multiply(new Quaternion(...standing.placement(held).rotation))
    .normalize()
    .toArray() as Quat
}

/** A thing's own axes in the world. */
export const axesOf = (standing: Standing, id: string) =>
  axesOfMatrix(standing.matrixOf(id), standing.placement(id).scale)

/** Whether a number differs from what it was by more than rounding. */
export const differs = (a: number, b: number) => Math.abs(a - b) > 1e-9
