import { Matrix3 } from 'three'
import type { Relation } from '../level/schema'
import type { Finder } from '../scene/finder'
import type { LevelView } from '../scene/level-view'
import { givenOf } from './definition'
import { relationsIn } from './graph'
import { definitionOf } from './kinds'
import { Standing } from './standing'

/** Three numbers of a thing: what keeps each of them, if anything does. */
type Held = readonly [readonly Relation[], readonly Relation[], readonly Relation[]]
export type HeldNumbers = Record<'position' | 'turn' | 'size', Held>

/** A number counts as held where a direction that is asked for has at least this share of it. */
const SHARE = 0.02

/**
 * Which of a thing's numbers are held, and by what; null if none is.
 *
 * @param inWorld whether its place is shown in the world's axes; in its parent's if not
 */
export function heldNumbers(level: LevelView, finder: Finder, id: string, inWorld: boolean): HeldNumbers | null {
  const relations = relationsIn(level).byHeld.get(id)
  if (!relations) return null
  const standing = new Standing(level, [])
  const toShown = new Matrix3()
  if (!inWorld) toShown.setFromMatrix4(standing.parentMatrix(id)).transpose()
  const held = { position: three(), turn: three(), size: three() }
  for (const relation of relations) {
    const { takes, takesOf, place } = definitionOf(relation.rule)
    for (const freedom of takes(relation.rule))
      for (const axis of takesOf?.(relation.rule) ?? [0, 1, 2]) held[freedom][axis]!.push(relation)
    // A number moves a thing along the direction that it counts along.
    for (const { along } of place?.(givenOf(standing, finder, relation)) ?? []) {
      const asked = along.clone().applyMatrix3(toShown).normalize().toArray()
      for (const [axis, each] of asked.entries()) if (Math.abs(each) > SHARE) held.position[axis]!.push(relation)
    }
  }
  return held
}

const three = (): [Relation[], Relation[], Relation[]] => [[], [], []]
