import type { Level } from '../level/level'
import type { Relation } from '../level/schema'
import { aimRelations } from './aims'
import { thingOf } from './standing'

/** What holds a relation's thing, by the things themselves: of a copy its arrangement. */
export const holdersOf = ({ holders }: Pick<Relation, 'holders'>): string[] =>
  holders.flatMap(({ on }) => (on === null ? [] : [thingOf(on)]))

/** Relations by what they hold, and by what holds it. */
export type RelationIndex = {
  /** By the thing that follows, in the order of their ids. */
  byHeld: ReadonlyMap<string, readonly Relation[]>
  /** The things that follow one. */
  heldBy: ReadonlyMap<string, ReadonlySet<string>>
}

const known = new WeakMap<Level, RelationIndex & { written: number }>()

/** A level's relations, and what its cameras and lights aim at; worked out anew after one was written. */
export function relationsIn(level: Level): RelationIndex {
  const found = known.get(level)
  if (found?.written === level.relationsWritten) return found
  const made = { ...indexOf([...level.relations.values(), ...aimRelations(level)]), written: level.relationsWritten }
  known.set(level, made)
  return made
}

/** The same of any relations. */
export function indexOf(relations: Iterable<Relation>): RelationIndex {
  const byHeld = new Map<string, Relation[]>()
  const heldBy = new Map<string, Set<string>>()
  for (const relation of [...relations].sort((a, b) => (a.id < b.id ? -1 : 1))) {
    const of = byHeld.get(relation.held)
    if (of) of.push(relation)
    else byHeld.set(relation.held, [relation])
    for (const holder of holdersOf(relation)) {
      const held = heldBy.get(holder)
      if (held) held.add(relation.held)
      else heldBy.set(holder, new Set([relation.held]))
    }
  }
  return { byHeld, heldBy }
}

/** What of a level the order of relations depends on. */
export type Hanging = { parentOf: (id: string) => string | null; byHeld: RelationIndex['byHeld'] }

/**
 * The things that follow others which one waits for: those it hangs from, those its holders are or hang from. In an
 * arrangement what one holder is shown by may be any of its sources, which stand below it.
 *
 * @param among only these; all that follow something when left out
 */
export function waitsFor(
  id: string,
  { parentOf, byHeld }: Hanging,
  among: { has: (id: string) => boolean } = byHeld,
): ReadonlySet<string> {
  let found: Set<string> | null = null
  const climb = (from: string | null) => {
    let steps = 0
    // What would hang from itself is refused elsewhere, and must not be climbed for good here.
    for (let at = from; at !== null && !found?.has(at) && steps++ < DEEPEST; at = parentOf(at))
      if (among.has(at)) (found ??= new Set()).add(at)
  }
  climb(parentOf(id))
  for (const { holders } of byHeld.get(id) ?? []) for (const { on } of holders) if (on !== null) climb(thingOf(on))
  return found ?? NOTHING
}

const NOTHING: ReadonlySet<string> = new Set()
/** Nothing hangs deeper than this below something else. */
const DEEPEST = 10_000

/**
 * Things in an order in which each comes after all that it waits for; equal ones by their ids.
 *
 * @returns `circle`: those that are left because they wait for each other
 */
export function inOrder(ids: Iterable<string>, hanging: Hanging): { order: string[]; circle: string[] } {
  const wanted: ReadonlySet<string> = ids instanceof Set ? ids : new Set(ids)
  const waiting = new Map<string, number>()
  let ready: string[] = []
  const after = new Map<string, string[]>()
  for (const id of wanted) {
    const before = waitsFor(id, hanging, wanted)
    if (before.size === 0) ready.push(id)
    else waiting.set(id, before.size)
    for (const other of before) {
      const others = after.get(other)
      if (others) others.push(id)
      else after.set(other, [id])
    }
  }
  const order: string[] = []
  ready.sort()
  while (ready.length > 0) {
    const next: string[] = []
    for (const id of ready) {
      order.push(id)
      for (const other of after.get(id) ?? []) {
        const left = waiting.get(other)! - 1
        if (left > 0) waiting.set(other, left)
        else {
          waiting.delete(other)
          next.push(other)
        }
      }
    }
    ready = next.sort()
  }
  return { order, circle: [...waiting.keys()].sort() }
}

/** Of a thing that comes to wait for itself, those on the way round; null if it does not. */
export function circleThrough(id: string, hanging: Hanging): string[] | null {
  const from = new Map<string, string>()
  const seen: string[] = [id]
  for (const at of seen)
    for (const next of waitsFor(at, hanging)) {
      if (next === id) {
        const way = [at]
        while (way[0] !== id) way.unshift(from.get(way[0]!)!)
        return way
      }
      if (from.has(next)) continue
      from.set(next, at)
      seen.push(next)
    }
  return null
}
