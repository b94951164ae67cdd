import { Quaternion } from 'three'
import type { Given, RelationDefinition } from '../definition'
import { differs, pointOf, turnedBy } from '../definition'

/** How far the thing's point is before the plane of the holder's face, and the way that looks. */
function before(given: Omit<Given<'flush'>, 'finder'>) {
  const { standing, relation, rule } = given
  const [holder] = relation.holders
  const look = standing.lookOf(holder!.on, rule.against)
  return { look, distance: look.dot(pointOf(given).sub(standing.placeOf(holder!))) }
}

/** A face of a thing stays in the plane of another's. */
export const flush: RelationDefinition<'flush'> = {
  says: ({ gap, opposite }, [holder], length) =>
    `${opposite ? 'face to face with' : 'flush with'} ${holder}${gap === 0 ? '' : `, ${length(gap)} off`}`,
  number: {
    label: 'Gap',
    quantity: 'length',
    of: ({ gap }) => gap,
    with: (rule, gap) => ({ ...rule, gap }),
  },
  takes: ({ turns }) => (turns ? ['turn'] : []),
  turn: given => {
    const { standing, relation, rule } = given
    const wanted = standing.lookOf(relation.holders[0]!.on, rule.against)
    const face = standing.lookOf(relation.held, rule.face)
    return turnedBy(given, new Quaternion().setFromUnitVectors(face, rule.opposite ? wanted.negate() : wanted))
  },
  place: given => {
    const { look, distance } = before(given)
    return [{ along: look, by: given.rule.gap - distance }]
  },
  dimension: given => {
    const point = pointOf(given)
    const { look, distance } = before(given)
    // Where the plane is before the thing's own point.
    const from = point.clone().addScaledVector(look, -distance)
    return given.rule.gap === 0 ? null : { from, to: point.clone(), point, metres: Math.abs(given.rule.gap) }
  },
  adopt: (given, { isTurned }) => {
    if (isTurned && given.rule.turns) return 'let go'
    const { distance } = before(given)
    return differs(distance, given.rule.gap) ? { rule: { ...given.rule, gap: distance } } : {}
  },
}
