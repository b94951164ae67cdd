import { aimOf } from '../edit/aim'
import type { PointOn } from '../level/fields'
import type { Level } from '../level/level'
import type { Operation, Placement, Relation } from '../level/schema'

// What a camera or a light aims at is written in its own fields; to all that follows and holds it is a relation as any.

const PREFIX = 'aim of '
const ofId = (id: string) => (id.startsWith(PREFIX) ? id.slice(PREFIX.length) : null)

/** The relation by which a camera or a light stays turned to what it aims at; null for what aims at nothing. */
export function aimRelation({ id, own }: Pick<Placement, 'id' | 'own'>): Relation | null {
  const aim = aimOf(own)
  return (
    aim && {
      id: `${PREFIX}${id}`,
      held: id,
      point: [0, 0, 0],
      holders: [aim],
      rule: { kind: 'facing', upright: false },
    }
  )
}

/** The same of all in a level. */
export const aimRelations = (level: Level): Relation[] =>
  [...level.aimingIds].flatMap(id => aimRelation(level.need(id)) ?? [])

/** The same as operations leave it. */
export function aimRelationsAfter(level: Level, operations: readonly Operation[]): Relation[] {
  const written = new Map(
    operations.flatMap(operation =>
      operation.do === 'put' && operation.fields.own ? [[operation.id, operation.fields.own]] : [],
    ),
  )
  return [...new Set([...level.aimingIds, ...written.keys()])].flatMap(
    id => aimRelation({ id, own: written.get(id) ?? level.need(id).own }) ?? [],
  )
}

/** The ids of the relations that an operation writes: itself, or what a camera or a light aims at. */
export function relationWritten(operation: Operation): string[] {
  if (operation.do === 'put-relation' || operation.do === 'remove-relation') return [operation.id]
  return operation.do === 'put' && operation.fields.own && 'aim' in operation.fields.own
    ? [`${PREFIX}${operation.id}`]
    : []
}

const aimAt = (own: Placement['own'], id: string, aim: PointOn | null): Operation => ({
  do: 'put',
  id,
  fields: { own: { ...own, aim } as Placement['own'] },
})

/**
 * What writes other fields of a relation.
 *
 * @param own the held thing's own fields at present
 */
export function putRelation(
  { id, holders }: Relation,
  fields: Partial<Pick<Relation, 'rule' | 'holders'>>,
  own: Placement['own'],
): Operation {
  const camera = ofId(id)
  return camera === null
    ? { do: 'put-relation', id, fields }
    : aimAt(own, camera, (fields.holders ?? holders)[0] ?? null)
}

/** What lets go of a relation. */
export function removeRelation({ id }: Relation, own: Placement['own']): Operation {
  const camera = ofId(id)
  return camera === null ? { do: 'remove-relation', id } : aimAt(own, camera, null)
}

/** A relation by its id; null if there is none. */
export function relationOf(level: Level, id: string): Relation | null {
  const camera = ofId(id)
  const placement = camera === null ? undefined : level.get(camera)
  return placement ? aimRelation(placement) : (level.relations.get(id) ?? null)
}

/** Whether a relation is what a camera or a light aims at. */
export const isAim = ({ id }: Pick<Relation, 'id'>) => ofId(id) !== null
