import type { Level } from '../level/level'
import type { Operation } from '../level/schema'
import type { Finder } from '../scene/finder'
import type { LevelView } from '../scene/level-view'
import { relationsAfter } from './after'
import type { Hanging } from './graph'
import { circleThrough, holdersOf, indexOf, inOrder, relationsIn } from './graph'
import { wayFor } from './keep'
import type { Offer } from './definition'
import { givenOf } from './definition'
import { definitionOf } from './kinds'
import { Standing } from './standing'

/**
 * Why relations cannot be as operations would have them: things would follow each other in a circle, or what is not
 * there; null if all is well.
 *
 * @param level before them
 */
export function relationsRefused(level: Level, operations: readonly Operation[]): string | null {
  const parents = new Map<string, string | null>()
  const made = new Set<string>()
  const written: string[] = []
  const asked = new Set<string>()
  // What was there is hung below something: only that may close a circle of others.
  let hangs = false
  operations.forEach(operation => {
    if (operation.do === 'put-relation') written.push(operation.id)
    if (operation.do === 'remove') made.delete(operation.id)
    if (operation.do !== 'put') return
    made.add(operation.id)
    if (operation.fields.parentId === undefined) return
    parents.set(operation.id, operation.fields.parentId)
    hangs ||= operation.fields.parentId !== null && level.has(operation.id)
  })
  if (written.length === 0 && (!hangs || level.relations.size === 0)) return null
  // What cameras aim at may go round: it takes their turn alone, and their places do not wait for it.
  const { byHeld } = indexOf(relationsAfter(level, operations))
  const relations = new Map([...byHeld.values()].flat().map(relation => [relation.id, relation]))
  const isThere = (id: string) => made.has(id) || level.has(id)
  for (const id of written) {
    const relation = relations.get(id)
    if (!relation) continue
    if (!isThere(relation.held) || !holdersOf(relation).every(isThere)) return 'A thing can only follow what is there.'
    asked.add(relation.held)
  }
  const hanging: Hanging = {
    byHeld,
    parentOf: id => (parents.has(id) ? parents.get(id)! : (level.get(id)?.parentId ?? null)),
  }
  const name = (id: string) => level.get(id)?.name ?? 'something new'
  if (hangs) for (const id of inOrder(byHeld.keys(), hanging).circle) asked.add(id)
  for (const id of asked) {
    const circle = circleThrough(id, hanging)
    if (circle)
      return `These would follow each other in a circle: ${[...circle, circle[0]!].slice(0, 6).map(name).join(', ')}${circle.length > 5 ? ' …' : ''}.`
  }
  return null
}

/**
 * What a relation to be made asks for that another takes already: both its turn, its size, or the same way of its
 * place; null if there is room.
 *
 * @param besides others that are to be made with it
 */
export function inTheWayOf(
  level: LevelView,
  finder: Finder,
  relation: Offer,
  besides: readonly Offer[] = [],
): Offer | null {
  const others = [
    ...(relationsIn(level).byHeld.get(relation.held) ?? []),
    ...besides.filter(({ held }) => held === relation.held),
  ]
  const mine = new Set(definitionOf(relation.rule).takes(relation.rule))
  for (const other of others)
    if (
      definitionOf(other.rule)
        .takes(other.rule)
        .some(freedom => mine.has(freedom))
    )
      return other
  const standing = new Standing(level, [])
  const asks = (of: Offer) =>
    definitionOf(of.rule)
      .place?.(givenOf(standing, finder, of))
      ?.map(({ along }) => along) ?? []
  const taken = others.flatMap(other => asks(other).map(along => ({ other, along })))
  for (const along of asks(relation)) {
    // A metre along it while the others stay: impossible where they span it, and far where they nearly do.
    const left = wayFor([...taken.map(each => ({ along: each.along, by: 0 })), { along, by: 1 }])
    if (left.length() < 0.5)
      return taken.toSorted((a, b) => Math.abs(b.along.dot(along)) - Math.abs(a.along.dot(along)))[0]!.other
    if (left.length() > 1e3) return taken[0]!.other
  }
  return null
}
