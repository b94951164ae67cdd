import { Vector3 } from 'three'
import type { Measure, Relation } from '../level/schema'
import { placeOfEnd } from '../measure/definition'
import type { LevelView } from '../scene/level-view'
import { copyOf } from '../scene/copy-id'
import type { Offer } from './definition'
import { relationsIn } from './graph'

/**
 * How the last leg of a tape can be kept, its last end's thing following the end before: straight, and along each axis
 * of the world; or why it cannot, in words.
 */
export function tapeOffers(level: LevelView, { kind, ends }: Pick<Measure, 'kind' | 'ends'>): Offer[] | string {
  const [holder, last] = ends.slice(-2)
  if (kind !== 'tape' || !holder || !last) return 'Only the length of a tape can be kept.'
  const held = last.on
  if (held === null || !level.has(held)) return 'Its last end is on nothing that could be moved. Put it onto a thing.'
  if (copyOf(held)) return 'Its last end is on a copy of an arrangement, which stands where the rule puts it.'
  const isOnItself =
    holder.on !== null && level.has(holder.on) && level.isWithin(copyOf(holder.on)?.arrangementId ?? holder.on, held)
  if (isOnItself) return 'Both ends are on what would move. Put the other end on something else.'
  const where = { level, matrixOf: (id: string) => level.worldMatrix(id) }
  const way = placeOfEnd(last, where).at.sub(placeOfEnd(holder, where).at)
  const axes = [0, 1, 2].map(axis => new Vector3().setComponent(axis, 1))
  return [
    { kind: 'apart' as const, along: null, distance: way.length() },
    ...axes.map(along => ({ kind: 'apart' as const, along: along.toArray(), distance: along.dot(way) })),
  ].map(rule => ({ held, point: last.point, holders: [holder], rule }))
}

/** What keeps the last leg of a tape: a distance between the same two points; null if nothing does. */
export function keptOfTape(level: LevelView, { kind, ends }: Pick<Measure, 'kind' | 'ends'>): Relation | null {
  const [holder, last] = ends.slice(-2)
  if (kind !== 'tape' || !holder || !last || last.on === null) return null
  const isSame = (a: readonly number[], b: readonly number[]) => a.every((each, i) => each === b[i])
  return (
    relationsIn(level)
      .byHeld.get(last.on)
      ?.find(
        ({ rule, point, holders: [by] }) =>
          rule.kind === 'apart' && isSame(point, last.point) && by!.on === holder.on && isSame(by!.point, holder.point),
      ) ?? null
  )
}
