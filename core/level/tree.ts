import type { Copied } from './copied'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { isArrangement } from '../arrange/arrangement'
import { definitionOf } from '../arrange/rules'
import { createPlacement, lastOrder } from './create'
import type { Level } from './level'
import type { Operation, Placement } from './schema'
import type { Quat, Vec3 } from '../math/vectors'
import type { Transform } from '../math/transform'
import { decompose, isSheared, localMatrix, SKEW_TOLERANCE } from '../math/transform'

export type Reparenting = {
  operations: Operation[]
  /**
   * Those whose look cannot be kept by any position, turn and size under the new parent, because they would be skewed.
   */
  skewed: string[]
  /** What it copies and replaces. */
  copied?: Copied
}

/**
 * Hangs placements from another parent, or from none, without moving them in the world.
 *
 * A turned thing inside an unevenly sized parent may have a shape that no position, turn and size can describe outside
 * of it; then the nearest one without skew is taken and the thing is named in `skewed`.
 *
 * @param order gives the places among the new siblings, in the order of `ids`; behind the last one when left out
 * @param middleOf around which what loses a skew keeps its place; its pivot when left out
 */
export function reparent(
  level: Level,
  ids: readonly string[],
  parentId: string | null,
  order?: readonly number[],
  middleOf: MiddleOf = () => null,
): Reparenting {
  const skewed: string[] = []
  const toParent = parentId === null ? new Matrix4() : level.worldMatrix(parentId).clone().invert()
  const first = lastOrder(level, parentId)
  const operations = ids.map((id, i): Operation => {
    const placement = level.need(id)
    const place = { parentId, order: order?.[i] ?? first + i }
    if (placement.parentId === parentId) return { do: 'put', id, fields: place }
    const wanted = toParent.clone().multiply(level.worldMatrix(id))
    if (isSheared(wanted)) skewed.push(id)
    return { do: 'put', id, fields: { ...place, ...within(wanted, placement.pivot, () => middleOf(id)) } }
  })
  return { operations, skewed }
}

/** The middle of what a thing shows, in its own axes; null if it shows nothing, or nobody knows. */
export type MiddleOf = (id: string) => Vec3 | null

/**
 * The numbers of something that is to stand by a matrix. Where its skew has to be lost, its box and its pivot stay
 * where they were: the nearest shape without skew is laid around the same middle.
 */
function within(wanted: Matrix4, pivot: Vec3, middle: () => Vec3 | null): Partial<Transform> {
  const { translation, rotation, scale } = decompose(wanted, pivot)
  if (!isSheared(wanted)) return { translation, rotation, scale }
  const shape = new Matrix4().compose(new Vector3(), new Quaternion(...rotation), new Vector3(...scale))
  const held = new Vector3(...pivot).applyMatrix4(wanted)
  const around = new Vector3(...(middle() ?? pivot))
  const origin = around.clone().applyMatrix4(wanted).sub(around.applyMatrix4(shape))
  return {
    translation: held.toArray(),
    rotation,
    scale,
    pivot: held.sub(origin).applyMatrix4(shape.invert()).toArray(),
  }
}

/**
 * The operations that put placements into a new group beside the last of them, standing at `at` in the world.
 * Things keep their places in the world.
 *
 * @param rotation of the group, in the axes of what it hangs from
 */
export function group(
  level: Level,
  chosen: ReadonlySet<string>,
  groupId: string,
  name: string,
  at: Vec3,
  rotation: Quat = [0, 0, 0, 1],
  middleOf: MiddleOf = () => null,
): Reparenting {
  const ids = topmost(level, chosen)
  const { parentId } = level.need(ids.at(-1)!)
  const inParent = new Vector3(...at)
  if (parentId !== null) inParent.applyMatrix4(level.worldMatrix(parentId).clone().invert())
  const { id, ...fields } = createPlacement({
    id: groupId,
    name,
    kind: 'group',
    parentId,
    order: lastOrder(level, parentId),
    translation: inParent.toArray(),
    rotation,
  })
  const made = localMatrix(fields, new Matrix4())
  if (parentId !== null) made.premultiply(level.worldMatrix(parentId))
  const toGroup = made.invert()
  const skewed: string[] = []
  const moves = ids.map((child, order): Operation => {
    const placement = level.need(child)
    const wanted = toGroup.clone().multiply(level.worldMatrix(child))
    if (isSheared(wanted)) skewed.push(child)
    return {
      do: 'put',
      id: child,
      fields: { parentId: groupId, order, ...within(wanted, placement.pivot, () => middleOf(child)) },
    }
  })
  return { operations: [{ do: 'put', id, fields }, ...moves], skewed }
}

/**
 * The operations that let everything out of groups to where the groups hang, and remove the groups; what was in a group
 * within another of them hangs where the outer one did. Others of `ids` are left alone.
 */
export function ungroup(level: Level, ids: Iterable<string>, middleOf?: MiddleOf): Reparenting {
  const groups = new Set([...ids].filter(id => level.need(id).kind === 'group'))
  const operations: Operation[] = []
  const skewed: string[] = []
  for (const id of topmost(level, groups)) {
    const { parentId, order } = level.need(id)
    const { inside, gone } = letOut(level, id, groups)
    // Between the group and its next sibling, so that they stand where it stood.
    const inner = reparent(
      level,
      inside,
      parentId,
      inside.map((_, i) => order + (i + 1) / (inside.length + 1)),
      middleOf,
    )
    for (const operation of inner.operations) operations.push(operation)
    for (const each of gone.toReversed()) operations.push({ do: 'remove', id: each })
    for (const one of inner.skewed) skewed.push(one)
  }
  return { operations, skewed }
}

/**
 * What is let out of a group, through groups within it that go as well, in its order; and those groups, the outer ones
 * first.
 */
function letOut(level: Level, id: string, groups: ReadonlySet<string>): { inside: string[]; gone: string[] } {
  const [inside, gone]: string[][] = [[], []]
  const waiting = [id]
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    if (!groups.has(at)) {
      inside!.push(at)
      continue
    }
    gone!.push(at)
    for (const child of level.children(at).toReversed()) waiting.push(child)
  }
  return { inside: inside!, gone: gone! }
}

/**
 * What a first click on a thing picks: the outermost group it is in that is not open, or the thing itself; inside a
 * group that is being worked in already, one level further in than that group.
 */
export function clickTarget(level: Level, hitId: string, picked: ReadonlySet<string>): string {
  const closed = closedPath(level, hitId)
  const inside = closed.findLastIndex(id =>
    [...picked].some(other => other !== id && level.has(other) && level.isWithin(other, id)),
  )
  return closed[Math.min(inside + 1, closed.length - 1)]!
}

/**
 * What clicks on the same spot go through in turn: for each thing on the line of sight its groups from the outside in,
 * then it.
 */
export function clickSequence(level: Level, hitIds: readonly string[]): string[] {
  return [...new Set(hitIds.flatMap(id => closedPath(level, id)))]
}

/** The groups that hold a thing together, the outermost first, and the thing. */
function closedPath(level: Level, id: string): string[] {
  const path = [id]
  for (let at = level.need(id).parentId; at !== null; at = level.need(at).parentId) {
    if (holdsTogether(level.need(at))) path.unshift(at)
  }
  return path
}

/** Groups that are not open, and arrangements; sources that stay to be seen are things by themselves. */
function holdsTogether({ kind, own }: Placement): boolean {
  if (isArrangement(own)) return !definitionOf(own.rule).keepsSources
  return kind === 'group' && !('open' in own && own.open)
}

/** Whether the sizes and turns above a placement make its shape skewed: its axes are no longer at right angles. */
export function isSkewed(level: Level, id: string): boolean {
  const axes = [new Vector3(), new Vector3(), new Vector3()] as const
  level.worldMatrix(id).extractBasis(...axes)
  const [x, y, z] = axes.map(axis => axis.normalize()) as [Vector3, Vector3, Vector3]
  return Math.max(Math.abs(x.dot(y)), Math.abs(y.dot(z)), Math.abs(z.dot(x))) > SKEW_TOLERANCE
}

/** Those of `ids` that do not hang below another of them. */
export function topmost(level: Level, ids: ReadonlySet<string>): string[] {
  return [...ids].filter(id => {
    for (let at = level.need(id).parentId; at !== null; at = level.need(at).parentId) {
      if (ids.has(at)) return false
    }
    return true
  })
}
