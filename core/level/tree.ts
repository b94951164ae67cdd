import { Matrix4, Quaternion, Vector3 } from 'three'
import { isArrangement } from '../arrange/arrangement'
import { copyOf } from '../arrange/copy'
import { createPlacement, lastOrder } from './create'
import type { LevelDocument } from './document'
import type { Operation, Placement, Quat, Vec3 } from './schema'
import { localMatrix } from './transform'

export type Reparenting = {
  operations: Operation[]
  /** Those whose look cannot be kept by any position, turn and size under the new parent, because they would be skewed. */
  skewed: string[]
}

/** How much a matrix may differ from its parts put together again, relative to its size, and not count as skewed. */
const SKEW_TOLERANCE = 1e-6

/**
 * Hangs placements from another parent, or from none, without moving them in the world.
 *
 * A turned thing inside an unevenly sized parent may have a shape that no position, turn and size can describe outside of
 * it; then the nearest one without skew is taken and the thing is named in `skewed`.
 *
 * @param order gives the places among the new siblings, in the order of `ids`; behind the last one when left out
 */
export function reparent(document: LevelDocument, ids: readonly string[], parentId: string | null, order?: readonly number[]): Reparenting {
  const skewed: string[] = []
  const toParent = parentId === null ? new Matrix4() : document.worldMatrix(parentId).clone().invert()
  const first = lastOrder(document, parentId)
  const operations = ids.map((id, i): Operation => {
    const placement = document.need(id)
    const place = { parentId, order: order?.[i] ?? first + i }
    if (placement.parentId === parentId) return { do: 'put', id, fields: place }
    const wanted = toParent.clone().multiply(document.worldMatrix(id))
    const transform = decompose(wanted, placement.pivot)
    if (differsFrom(wanted, localMatrix({ ...placement, ...transform }, new Matrix4()))) skewed.push(id)
    return { do: 'put', id, fields: { ...place, ...transform } }
  })
  return { operations, skewed }
}

/** Position, turn and size of a matrix around a pivot: T = m + R·S·p, m being the matrix's translation. */
export function decompose(matrix: Matrix4, pivot: Vec3): Pick<Placement, 'translation' | 'rotation' | 'scale'> {
  const [position, rotation, scale] = [new Vector3(), new Quaternion(), new Vector3()]
  matrix.decompose(position, rotation, scale)
  rotation.normalize()
  position.add(new Vector3(...pivot).multiply(scale).applyQuaternion(rotation))
  return { translation: position.toArray(), rotation: rotation.toArray() as Quat, scale: scale.toArray() }
}

/**
 * The operations that put placements into a new group beside the last of them, standing at `at` in the world.
 * Things keep their places in the world.
 *
 * @param rotation of the group, in the axes of what it hangs from
 */
export function group(document: LevelDocument, chosen: ReadonlySet<string>, groupId: string, name: string, at: Vec3, rotation: Quat = [0, 0, 0, 1]): Reparenting {
  const ids = topmost(document, chosen)
  const { parentId } = document.need(ids.at(-1)!)
  const inParent = new Vector3(...at)
  if (parentId !== null) inParent.applyMatrix4(document.worldMatrix(parentId).clone().invert())
  const { id, ...fields } = createPlacement({
    id: groupId, name, kind: 'group', parentId, order: lastOrder(document, parentId), translation: inParent.toArray(), rotation,
  })
  const made = localMatrix(fields, new Matrix4())
  if (parentId !== null) made.premultiply(document.worldMatrix(parentId))
  const toGroup = made.invert()
  const skewed: string[] = []
  const moves = ids.map((child, order): Operation => {
    const placement = document.need(child)
    const wanted = toGroup.clone().multiply(document.worldMatrix(child))
    const transform = decompose(wanted, placement.pivot)
    if (differsFrom(wanted, localMatrix({ ...placement, ...transform }, new Matrix4()))) skewed.push(child)
    return { do: 'put', id: child, fields: { parentId: groupId, order, ...transform } }
  })
  return { operations: [{ do: 'put', id, fields }, ...moves], skewed }
}

/** The operations that let everything out of groups to where the groups hang, and remove the groups. Others of `ids` are left alone. */
export function ungroup(document: LevelDocument, ids: Iterable<string>): Reparenting {
  const operations: Operation[] = []
  const skewed: string[] = []
  for (const id of ids) {
    const { kind, parentId, order } = document.need(id)
    if (kind !== 'group') continue
    const children = document.children(id)
    // Between the group and its next sibling, so that they stand where it stood.
    const inner = reparent(document, children, parentId, children.map((_, i) => order + (i + 1) / (children.length + 1)))
    for (const operation of inner.operations) operations.push(operation)
    operations.push({ do: 'remove', id })
    for (const one of inner.skewed) skewed.push(one)
  }
  return { operations, skewed }
}

/**
 * What a first click on a thing picks: the outermost group it is in that is not open, or the thing itself; inside a group
 * that is being worked in already, one level further in than that group.
 */
export function clickTarget(document: LevelDocument, hitId: string, picked: ReadonlySet<string>): string {
  const closed = closedPath(document, hitId)
  const inside = closed.findLastIndex(id => [...picked].some(other => other !== id && document.has(other) && document.isWithin(other, id)))
  return closed[Math.min(inside + 1, closed.length - 1)]!
}

/** What clicks on the same spot go through in turn: for each thing on the line of sight its groups from the outside in, then it. */
export function clickSequence(document: LevelDocument, hitIds: readonly string[]): string[] {
  return [...new Set(hitIds.flatMap(id => closedPath(document, id)))]
}

/** The groups that hold a thing together, the outermost first, and the thing. */
function closedPath(document: LevelDocument, id: string): string[] {
  const path = [id]
  for (let at = document.need(id).parentId; at !== null; at = document.need(at).parentId) {
    if (holdsTogether(document.need(at))) path.unshift(at)
  }
  return path
}

/** Groups that are not open, and arrangements; what a mirror mirrors stays a thing by itself. */
function holdsTogether({ kind, own }: Placement): boolean {
  if (isArrangement(own)) return own.rule.rule !== 'mirror'
  return kind === 'group' && !('open' in own && own.open)
}

/** Whether a matrix differs from another by more than rounding, relative to the largest number of the first. */
export function differsFrom(a: Matrix4, b: Matrix4): boolean {
  const size = Math.max(...a.elements.map(Math.abs))
  return Math.max(...a.elements.map((value, i) => Math.abs(value - b.elements[i]!))) / size > SKEW_TOLERANCE
}

/** Whether the sizes and turns above a placement make its shape skewed: its axes are no longer at right angles. */
export function isSkewed(document: LevelDocument, id: string): boolean {
  const axes = [new Vector3(), new Vector3(), new Vector3()] as const
  document.worldMatrix(id).extractBasis(...axes)
  const [x, y, z] = axes.map(axis => axis.normalize()) as [Vector3, Vector3, Vector3]
  return Math.max(Math.abs(x.dot(y)), Math.abs(y.dot(z)), Math.abs(z.dot(x))) > SKEW_TOLERANCE
}

/** All that moves when placements do: what hangs below them; and of one copy its whole arrangement, whose copies are found as one. */
export function movingWith(document: LevelDocument, ids: readonly string[]): Set<string> {
  return new Set(ids.flatMap((id) => {
    const copy = copyOf(id)
    return copy ? [id, copy.arrangementId] : document.subtree(id)
  }))
}

/** Those of `ids` that do not hang below another of them. */
export function topmost(document: LevelDocument, ids: ReadonlySet<string>): string[] {
  return [...ids].filter((id) => {
    for (let at = document.need(id).parentId; at !== null; at = document.need(at).parentId) {
      if (ids.has(at)) return false
    }
    return true
  })
}
