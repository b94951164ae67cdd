import type { Box3 } from 'three'
import { Quaternion, Vector3 } from 'three'
import type { ArrangementOwn } from '../arrange/arrangement'
import { isArrangement } from '../arrange/arrangement'
import { definitionOf } from '../arrange/rules'
import { lastOrder } from '../level/create'
import type { Operation, Placement } from '../level/schema'
import type { Vec3 } from '../math/vectors'
import { copyOf } from '../scene/copy-id'
import type { LevelView } from '../scene/level-view'
import { instancesOf } from '../level/find'

/** How a part comes into the place of another. */
export type SwapRule = {
  /** Whether its box is made as large as the other's; else it keeps the numbers of its size. */
  fit: boolean
  /** What of it stands where it stood: its pivot, or the middle of its box. */
  by: 'pivot' | 'middle'
}

/** What is known of a part, or of another shape: the box of its mesh, and where it has its pivot. */
export type SwapShape = { box: Box3; pivot: Vec3 }

export type Swap = {
  operations: Operation[]
  /** The names of those that cannot be swapped, and why. */
  left: { name: string; why: string }[]
}

/**
 * The operations that put a part into the place of what some placements show, in one change. A copy of an arrangement
 * gets it as an exception, from a further source; all copies of an arrangement follow when its source is swapped.
 *
 * @param shapeOf what a placement shows; undefined while it is not there
 * @param newId for sources that are added
 */
export function swapParts(
  level: LevelView,
  ids: Iterable<string>,
  partId: string,
  part: SwapShape,
  rule: SwapRule,
  shapeOf: (id: string) => SwapShape | undefined,
  newId: () => string,
): Swap {
  const swap: Swap = { operations: [], left: [] }
  const byArrangement = new Map<string, string[]>()
  for (const id of ids) {
    const named = copyOf(id)
    const placement = level.need(id)
    if (placement.partId === partId) continue
    if (placement.kind !== 'part' && placement.kind !== 'block')
      swap.left.push({ name: placement.name, why: 'shows no part' })
    else if (named) byArrangement.set(named.arrangementId, [...(byArrangement.get(named.arrangementId) ?? []), id])
    else swap.operations.push({ do: 'put', id, fields: swapped(placement, partId, part, rule, shapeOf(id)) })
  }
  for (const [id, copies] of byArrangement)
    swapCopies(
      level,
      id,
      copies,
      partId,
      (source: Placement) => swapped(source, partId, part, rule, shapeOf(source.id)),
      newId,
      swap,
    )
  return swap
}

/** The fields of a placement that shows a part in place of what it showed. */
function swapped(
  placement: Placement,
  partId: string,
  part: SwapShape,
  { fit, by }: SwapRule,
  old: SwapShape | undefined,
): Partial<Placement> {
  const shows = { kind: 'part' as const, partId, blockId: null, own: {} }
  if (!old) return shows
  const isUsual = placement.pivot.every((value, axis) => value === old.pivot[axis])
  const pivot = isUsual ? part.pivot : placement.pivot
  const [before, after] = [new Vector3(), new Vector3()]
  old.box.getSize(before)
  part.box.getSize(after)
  const scale = placement.scale.map((value, axis) => {
    const share = before.getComponent(axis) / after.getComponent(axis)
    // A flat box says nothing about how large another is along it.
    return fit && Number.isFinite(share) && share > 0 ? value * share : value
  }) as Vec3
  if (by === 'pivot') return { ...shows, pivot, scale }
  const middle = (box: Box3, from: Vec3, size: Vec3) =>
    box
      .getCenter(new Vector3())
      .sub(new Vector3(...from))
      .multiply(new Vector3(...size))
  const shift = middle(old.box, placement.pivot, placement.scale)
    .sub(middle(part.box, pivot, scale))
    .applyQuaternion(new Quaternion(...placement.rotation))
  return { ...shows, pivot, scale, translation: new Vector3(...placement.translation).add(shift).toArray() }
}

function swapCopies(
  level: LevelView,
  id: string,
  copies: readonly string[],
  partId: string,
  fieldsOf: (source: Placement) => Partial<Placement>,
  newId: () => string,
  swap: Swap,
): void {
  const { own, sources } = level.arranged(id)
  const leave = (why: string) => void swap.left.push({ name: level.need(id).name, why })
  const number = sources.findIndex(source => level.need(source).partId === partId)
  if (number < 0 && definitionOf(own.rule).scattered(own.rule))
    return leave('is a scatter; add the part to its mix first')
  if (number < 0 && !own.sources && sources.length > 1)
    return leave('deals its sources in turn; a further one would deal all anew. Give it a pattern first')
  const exceptions = { ...own.exceptions }
  for (const copy of copies) {
    const { key } = copyOf(copy)!
    exceptions[key] = { ...exceptions[key], source: number < 0 ? sources.length : number }
  }
  const next: ArrangementOwn = {
    ...own,
    ...(number < 0 && !own.sources ? { sources: { by: 'pattern', pattern: [0] } } : {}),
    exceptions,
  }
  swap.operations.push({ do: 'put', id, fields: { own: next } })
  if (number >= 0) return
  const { id: _id, ...source } = level.copy(copies[0]!)!.source
  swap.operations.push({
    do: 'put',
    id: newId(),
    fields: { ...source, ...fieldsOf(level.copy(copies[0]!)!.source), order: lastOrder(level, id) },
  })
}

/** The sources of arrangements are among the instances of a part as well. */
export function showingPart(level: LevelView, partId: string): string[] {
  return instancesOf(level, partId).filter(id => !isArrangement(level.need(id).own) && !level.isLocked(id))
}
