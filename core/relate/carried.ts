import { Vector3 } from 'three'
import type { Copied } from '../level/copied'
import { copiedRelations } from '../edit/copied'
import type { PointOn } from '../level/fields'
import type { Operation, Relation } from '../level/schema'
import type { LevelView } from '../scene/level-view'
import { indexOf } from './graph'
import { lookIn, pointIn, Standing } from './standing'
import type { Offer } from './definition'

/** What is kept where things are copied and replaced. */
export type Carried = { operations: Operation[]; amongCopies: Offer[]; ofCopies: Offer[]; ofReplaced: Offer[] }

/**
 * What becomes of what is kept where things are copied or replaced.
 *
 * @param operations that copy and replace them
 * @returns what lets that which comes into a thing's place hold what it held; and what may be kept once it is seen how
 *   all stand: of copies to each other, of copies to something else, and of what was replaced
 */
export function carriedWith(
  level: LevelView,
  operations: readonly Operation[],
  { made = [], replaced = new Map(), relations }: Copied,
): Carried {
  const known = relations ?? [...level.relations.values()]
  const copies = made.filter(each => each.size > 0)
  if (known.length === 0 || copies.length + replaced.size === 0)
    return { operations: [], amongCopies: [], ofCopies: [], ofReplaced: [] }
  const { byHeld } = indexOf(copies.length > 0 ? known : [])
  const copied = copies.map(each =>
    copiedRelations(
      [...each.keys()].flatMap(id => byHeld.get(id) ?? []),
      each,
    ),
  )
  const held = replaced.size > 0 ? heldOtherwise(level, operations, replaced) : { operations: [], outside: [] }
  return {
    operations: held.operations,
    amongCopies: copied.flatMap(({ within }) => within),
    ofCopies: copied.flatMap(({ outside }) => outside),
    ofReplaced: held.outside,
  }
}

/** What is kept of things that are replaced, and to them, of and to what comes into their places. */
function heldOtherwise(
  level: LevelView,
  operations: readonly Operation[],
  replaced: ReadonlyMap<string, string>,
): { operations: Operation[]; outside: Offer[] } {
  const standing = new Standing(level, operations)
  const holder = (end: PointOn): PointOn => {
    const to = end.on === null ? undefined : replaced.get(end.on)
    if (to === undefined || !standing.has(to)) return end
    const at = standing.placeOf(end)
    return { at: at.toArray(), on: to, point: pointIn(standing.matrixOf(to), at) }
  }
  const found: ReturnType<typeof heldOtherwise> = { operations: [], outside: [] }
  for (const { id, ...relation } of level.relations.values()) {
    const to = replaced.get(relation.held)
    const holders = relation.holders.map(holder)
    const [first] = relation.holders
    const next = first!.on !== null && replaced.has(first!.on) ? 'against' : null
    const rule = next ? lookingOtherwise(standing, relation.rule, next, first!.on!, replaced) : relation.rule
    if (to !== undefined && standing.has(to)) {
      // Both are in what replaces them.
      if (holders.every(({ on }) => on === to)) continue
      const place = new Vector3(...relation.point).applyMatrix4(level.worldMatrix(relation.held))
      found.outside.push({
        held: to,
        point: pointIn(standing.matrixOf(to), place),
        holders,
        rule: lookingOtherwise(standing, rule, 'face', relation.held, replaced),
      })
    } else if (holders.some(({ on }, i) => on !== relation.holders[i]!.on))
      found.operations.push({ do: 'put-relation', id, fields: { holders, rule } })
  }
  return found
}

/** A rule whose face, of what is held or of what holds, looks as before from the axes of what replaces that. */
function lookingOtherwise(
  standing: Standing,
  rule: Relation['rule'],
  field: 'against' | 'face',
  from: string,
  replaced: ReadonlyMap<string, string>,
): Relation['rule'] {
  const to = replaced.get(from)
  if (rule.kind !== 'flush' || to === undefined || !standing.has(to)) return rule
  return { ...rule, [field]: lookIn(standing.matrixOf(to), standing.lookOf(from, rule[field])) }
}
