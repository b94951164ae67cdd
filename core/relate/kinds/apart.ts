import { Vector3 } from 'three'
import { LEVEL_AXES } from '../../units/height'
import type { Given, RelationDefinition } from '../definition'
import { differs, pointOf } from '../definition'

/** Nearer than this, in metres, two points have no direction from one to the other. */
const TOO_NEAR = 1e-9

/** How far the thing's point is from the holder's, and along what. */
function now(given: Omit<Given<'apart'>, 'finder'>): { along: Vector3; distance: number } {
  const { standing, relation, rule } = given
  const way = pointOf(given).sub(standing.placeOf(relation.holders[0]!))
  if (rule.along === null) return { along: way.clone().normalize(), distance: way.length() }
  const along = new Vector3(...rule.along)
  return { along, distance: along.dot(way) }
}

/** Two points of two things stay as far from each other as they are. */
export const apart: RelationDefinition<'apart'> = {
  says: ({ distance, along }, [holder], length, axes) => {
    const axis = LEVEL_AXES.find(each => Math.abs(along?.[each] ?? 0) === 1)
    if (along && distance === 0)
      return `in line with ${holder}${axis === undefined ? '' : ` along ${axes.letter(axis)}`}`
    return `${length(Math.abs(distance))} from ${holder}${along === null ? '' : axis === undefined ? ' one way' : ` along ${axes.letter(axis)}`}`
  },
  number: {
    label: 'Distance',
    quantity: 'length',
    of: ({ distance }) => distance,
    with: (rule, distance) => ({ ...rule, distance }),
  },
  takes: () => [],
  place: given => {
    const { along, distance } = now(given)
    if (given.rule.along === null && distance < TOO_NEAR) return null
    return [{ along, by: given.rule.distance - distance }]
  },
  bends: ({ along }) => along === null,
  dimension: given => {
    const { standing, relation, rule } = given
    const [from, point] = [standing.placeOf(relation.holders[0]!), pointOf(given)]
    const { along, distance } = now(given)
    const to = rule.along === null ? point.clone() : from.clone().addScaledVector(along, distance)
    return { from, to, point, metres: Math.abs(rule.distance) }
  },
  adopt: given => {
    const { distance } = now(given)
    return differs(distance, given.rule.distance) ? { rule: { ...given.rule, distance } } : {}
  },
}
