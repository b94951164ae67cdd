import type { Placement, Relation } from '../level/schema'
import { thingOf } from './standing'
import { holdersOf, indexOf, inOrder, waitsFor } from './graph'

/**
 * Relations of a file, without those that cannot be: of and to what is not in it, and those of things that would follow
 * each other in a circle.
 */
export function soundRelations(
  placements: readonly Pick<Placement, 'id' | 'parentId'>[],
  relations: readonly Relation[],
): { sound: Relation[]; missing: number; circling: number } {
  if (relations.length === 0) return { sound: [], missing: 0, circling: 0 }
  const parents = new Map(placements.map(({ id, parentId }) => [id, parentId]))
  const there = relations.filter(relation =>
    [relation.held, ...holdersOf(relation)].every(id => parents.has(thingOf(id))),
  )
  const { byHeld } = indexOf(there)
  const hanging = { byHeld, parentOf: (id: string) => parents.get(id) ?? null }
  const circle = onCircles(inOrder(byHeld.keys(), hanging).circle, hanging)
  const sound = there.filter(({ held }) => !circle.has(held))
  return { sound, missing: relations.length - there.length, circling: there.length - sound.length }
}

/** Of things that wait for each other, or for such: those that one of them waits for as well. */
function onCircles(ids: readonly string[], hanging: Parameters<typeof waitsFor>[1]): ReadonlySet<string> {
  const left = new Set(ids)
  const before = new Map(ids.map(id => [id, [...waitsFor(id, hanging, left)]]))
  const waiting = new Map<string, number>()
  for (const others of before.values()) for (const other of others) waiting.set(other, (waiting.get(other) ?? 0) + 1)
  const ends = ids.filter(id => !waiting.has(id))
  for (const id of ends) {
    left.delete(id)
    for (const other of before.get(id)!) {
      const count = waiting.get(other)! - 1
      waiting.set(other, count)
      if (count === 0) ends.push(other)
    }
  }
  return left
}
