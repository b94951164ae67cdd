import { Quaternion, Vector3 } from 'three'
import { UP } from '../../edit/handles/axes'
import { uppermost, WALL } from '../../edit/snap/rest'
import { endAt } from '../../measure/definition'
import type { Given, RelationDefinition } from '../definition'
import { differs, turnedBy } from '../definition'
import type { Below } from '../reach'
import { belowOn, belowOnAny, reachOf, undersideOf } from '../reach'
import { thingOf } from '../standing'

const DOWN = new Vector3(0, -1, 0)

/** Metres above a place from which its surface is looked for: as high as a drag that hugs may climb. */
const LOOK_ABOVE = 1.5

/** How far a thing reaches straight down, if it does not rest by its pivot. */
const lowestOf = ({ standing, finder, relation: { held }, rule }: Given<'on'>) =>
  rule.rest === 'pivot' ? null : reachOf(standing, finder, held, DOWN)

/** The place under a thing that is looked below: its lowest point, or its pivot. */
const footOf = (given: Given<'on'>, lowest = lowestOf(given)): Vector3 =>
  lowest?.middle ?? given.standing.pivotOf(given.relation.held)

/** From how high above a place it is looked for what is below: by as much as the holder rises or falls. */
function lookFrom({ standing, relation: { held, holders } }: Given<'on'>, place: Vector3): Vector3 {
  const before = place.clone().applyMatrix4(standing.wayOf(held).clone().invert())
  const { on } = holders[0]!
  const carried = on === null ? before : before.clone().applyMatrix4(standing.wayOf(on))
  return place.clone().setY(carried.y + LOOK_ABOVE)
}

function below(given: Given<'on'>, place: Vector3): Below | null {
  const { standing, finder, relation } = given
  const { on, at } = relation.holders[0]!
  // The ground that is everywhere.
  if (on === null) return { id: '', point: place.clone().setY(at[1]), normal: UP.clone() }
  return belowOn(standing, finder, on, lookFrom(given, place))
}

/** Whether what it rests on comes with the change, and shows nothing yet that could be rested on. */
function isToCome({ standing, relation: { holders } }: Given<'on'>): boolean {
  const { on } = holders[0]!
  return on !== null && standing.has(on) && !standing.level.has(thingOf(on))
}

/** How far what a thing rests on goes straight up or down, while the thing stays; null if either goes otherwise. */
function liftedWith({ standing, relation: { held, holders } }: Given<'on'>): number | null {
  const { on } = holders[0]!
  if (on === null || standing.isMoved(held) || !standing.isMoved(on)) return null
  const e = standing.wayOf(on).elements
  const isStraightUp = e[0] === 1 && e[5] === 1 && e[10] === 1 && e[12] === 0 && e[14] === 0
  // What stays may show something else by now.
  return isStraightUp && e[13] !== 0 && [1, 2, 4, 6, 8, 9].every(i => e[i] === 0) ? e[13]! : null
}

/** How far up a thing has to go to rest on what is below; null where nothing is, or only a wall. */
function lift(given: Given<'on'>): number | null {
  const { standing, finder, relation, rule } = given
  const risen = liftedWith(given)
  if (risen !== null) return risen
  const straight = lowestOf(given)
  const surface = below(given, footOf(given, straight))
  if (!surface || surface.normal.y <= WALL) return null
  const pivot = standing.pivotOf(relation.held)
  const { point, normal } = surface
  const height = point.y - (normal.x * (pivot.x - point.x) + normal.z * (pivot.z - point.z)) / normal.y
  if (rule.rest === 'clear' && !rule.leaning) {
    const lifts = undersideOf(standing, finder, relation.held, normal).flatMap(at => {
      const under = below(given, at)
      return under ? [under.point.y - at.y] : []
    })
    return lifts.length === 0 ? null : Math.max(...lifts) + rule.offset
  }
  const contact = rule.leaning ? normal : UP
  const down = contact.clone().negate()
  const lowest = rule.leaning && rule.rest !== 'pivot' ? reachOf(standing, finder, relation.held, down) : straight
  const reach = lowest ? lowest.reach - pivot.dot(down) : 0
  return height + (reach + rule.offset) / contact.y - pivot.y
}

/** A thing rests on another, wherever that goes. */
export const on: RelationDefinition<'on'> = {
  says: ({ offset }, [holder], length) => `on ${holder}${offset === 0 ? '' : `, raised by ${length(offset)}`}`,
  number: {
    label: 'Raised by',
    quantity: 'length',
    of: ({ offset }) => offset,
    with: (rule, offset) => ({ ...rule, offset }),
  },
  takes: ({ leaning }) => (leaning ? ['turn'] : []),
  turn: given => {
    if (isToCome(given)) return [...given.standing.placement(given.relation.held).rotation]
    const surface = below(given, footOf(given))
    if (!surface || surface.normal.y <= WALL) return null
    const up = uppermost(given.standing.matrixOf(given.relation.held))
    return turnedBy(given, new Quaternion().setFromUnitVectors(up, surface.normal))
  },
  place: given => {
    if (isToCome(given)) return []
    const by = lift(given)
    return by === null ? null : [{ along: UP.clone(), by }]
  },
  bends: () => true,
  adopt: (given, { moved }) => {
    const { standing, finder, relation, rule } = given
    if (Math.hypot(moved.x, moved.z) < 1e-9) {
      const by = lift(given)
      return by !== null && differs(by, 0) ? { rule: { ...rule, offset: rule.offset - by } } : {}
    }
    const foot = footOf(given)
    const { on } = relation.holders[0]!
    // Both were moved by hand, and one is on the other yet.
    if (rule.stays || (on !== null && standing.isMoved(on) && below(given, foot))) return {}
    const other = belowOnAny(standing, finder, foot.setY(foot.y - moved.y + LOOK_ABOVE))
    if (!other || thingOf(other.id) === thingOf(relation.holders[0]!.on ?? '')) return {}
    return { holders: [endAt(standing.level, other.id, other.point)] }
  },
}
