import type { Matrix4 } from 'three'
import { Vector3 } from 'three'
import { referringTo } from '../arrange/refer'
import { besideArrangement, sourceOfCopy } from '../scene/copies'
import { copyOf } from '../scene/copy-id'
import { moveTops } from './handles/move'
import { FreeNames, lastOrder } from '../level/create'
import type { LevelView } from '../scene/level-view'
import type { Operation, Placement } from '../level/schema'
import { topmost } from '../level/tree'
import { decompose } from '../math/transform'

/** What a duplicate shares with what it was made of: everything, or nothing of its block's numbers. */
export type DuplicateAs = 'instance' | 'copy'

export type Duplication = {
  operations: Operation[]
  /** The duplicates of the topmost things, in their order. */
  tops: string[]
  /** By original: the duplicate of every one of them. */
  made: ReadonlyMap<string, string>
  /** The same with what a copy of an arrangement was made of in its place. */
  bySource: ReadonlyMap<string, string>
}

/**
 * The operations that put a duplicate of each placement, with all below it, where it is, behind its siblings.
 *
 * Instances share their parts and blocks. Copies have blocks of their own; things that shared one share the new one.
 * The topmost have names of their own. What hangs below another of the chosen is not duplicated twice. The duplicate of
 * one copy of an arrangement stands beside that.
 *
 * @param newId makes an id for each
 * @param names gives a duplicate its name; without it the next free number
 */
export function duplicate(
  level: LevelView,
  ids: Iterable<string>,
  as: DuplicateAs,
  newId: () => string,
  names: Pick<FreeNames, 'like'> = new FreeNames(level),
): Duplication {
  const blocks = new Map<string, string>()
  const made = new Map<string, string>()
  /** Of a copy's source as well. */
  const newOf = new Map<string, string>()
  const orders = new Map<string | null, number>()
  const nextOrder = (parentId: string | null): number => {
    const order = orders.get(parentId) ?? lastOrder(level, parentId)
    orders.set(parentId, order + 1)
    return order
  }
  const blockFor = (blockId: string | null): string | null => {
    if (as === 'instance' || blockId === null) return blockId
    if (!blocks.has(blockId)) blocks.set(blockId, newId())
    return blocks.get(blockId)!
  }
  const tops = topmost(level, new Set(ids))
  const puts = tops.flatMap(top => {
    const isCopy = copyOf(top) !== null
    const source = isCopy ? sourceOfCopy(level, top) : top
    const below = level.subtree(source)
    const own = new Map(below.map(id => [id, newId()]))
    for (const [from, to] of own) newOf.set(from, to)
    if (isCopy) made.set(top, own.get(source)!)
    else for (const [from, to] of own) made.set(from, to)
    const beside = isCopy ? besideArrangement(level, top) : { parentId: level.need(top).parentId }
    return below.map((from): Operation => {
      const { id: _id, ...fields } = level.need(from)
      const place =
        from === source
          ? { ...beside, order: nextOrder(beside.parentId), name: names.like(fields.name) }
          : { parentId: own.get(fields.parentId!)! }
      return { do: 'put', id: own.get(from)!, fields: { ...fields, ...place, blockId: blockFor(fields.blockId) } }
    })
  })
  const blockPuts = [...blocks].map(([from, to]): Operation => {
    const { id: _id, ...fields } = level.blocks.get(from)!
    return { do: 'put-block', id: to, fields }
  })
  // Only now all are known that an arrangement among them may depend on.
  const referring = puts.map(
    (put): Operation =>
      put.do === 'put' && put.fields.own && put.fields.kind === 'arrangement'
        ? { ...put, fields: { ...put.fields, own: referringTo(put.fields.own, id => newOf.get(id) ?? id) } }
        : put,
  )
  return { operations: [...blockPuts, ...referring], tops: tops.map(id => made.get(id)!), made, bySource: newOf }
}

/** The step from one place to another, in the world. */
export type DuplicateStep = { from: Matrix4; to: Matrix4 }

/**
 * The operations that take placements a step on: by the same way in the world if it only moved, else by the same move,
 * turn and size as a whole.
 *
 * @param level with the placements in it
 */
export function stepOn(level: LevelView, ids: readonly string[], { from, to }: DuplicateStep): Operation[] {
  const linear = (matrix: Matrix4) => matrix.elements.filter((_, i) => i % 4 !== 3 && i < 12)
  const [before, after] = [linear(from), linear(to)]
  const size = Math.max(...before.map(Math.abs))
  if (before.every((value, i) => Math.abs(value - after[i]!) < 1e-12 * size)) {
    return moveTops(level, ids, new Vector3().setFromMatrixPosition(to).sub(new Vector3().setFromMatrixPosition(from)))
  }
  const step = to.clone().multiply(from.clone().invert())
  return ids.map(id => {
    const wanted = level.parentMatrix(id).clone().invert().multiply(step).multiply(level.worldMatrix(id))
    return { do: 'put', id, fields: decompose(wanted, level.need(id).pivot) }
  })
}

/** The fields that make a placement an instance of another: it shows the same, where it is. */
export function asInstanceOf({
  kind,
  partId,
  blockId,
}: Placement): Pick<Placement, 'kind' | 'partId' | 'blockId' | 'own'> {
  return { kind, partId, blockId, own: {} }
}
