import { Vector3 } from 'three'
import type { Given, RelationDefinition } from '../definition'
import { differs, pointOf } from '../definition'

const AXES = [new Vector3(1, 0, 0), new Vector3(0, 1, 0), new Vector3(0, 0, 1)] as const

const placesOf = ({ standing, relation }: Given<'between'>) => relation.holders.map(holder => standing.placeOf(holder))

function target(given: Given<'between'>): Vector3 {
  const places = placesOf(given)
  return places.length === 2
    ? places[0]!.clone().lerp(places[1]!, given.rule.share)
    : places.reduce((sum, place) => sum.add(place), new Vector3()).divideScalar(places.length)
}

/** A thing stays in the middle of others, or at a share of the way from one to another. */
export const between: RelationDefinition<'between'> = {
  says: ({ share }, by) =>
    `${share === 0.5 || by.length > 2 ? '' : `${Number((share * 100).toFixed(2))} % `}between ${by.slice(0, -1).join(', ')} and ${by.at(-1)}`,
  number: {
    label: 'Share of the way',
    quantity: 'factor',
    of: ({ share }, holders) => (holders === 2 ? share : null),
    with: (rule, share) => ({ ...rule, share }),
  },
  takes: () => [],
  place: given => {
    const way = target(given).sub(pointOf(given))
    return AXES.flatMap((along, axis) => (given.rule.axes[axis] ? [{ along, by: way.getComponent(axis) }] : []))
  },
  adopt: given => {
    const [first, last, ...more] = placesOf(given)
    const onAxes = (way: Vector3) =>
      way.set(...(way.toArray().map((each, i) => (given.rule.axes[i] ? each : 0)) as [number, number, number]))
    const whole = onAxes(last!.clone().sub(first!))
    if (more.length > 0 || whole.lengthSq() < 1e-18) return {}
    const share = onAxes(pointOf(given).sub(first!)).dot(whole) / whole.lengthSq()
    return differs(share, given.rule.share) ? { rule: { ...given.rule, share } } : {}
  },
}
