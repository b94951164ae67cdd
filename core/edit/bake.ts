import { Matrix4, Quaternion, Vector3 } from 'three'
import type { LevelView } from '../scene/level-view'
import { previewMatrices } from '../scene/preview'
import type { Operation, Placement } from '../level/schema'
import type { Vec3 } from '../math/vectors'
import { localMatrix } from '../math/transform'
import { copyOf } from '../scene/copy-id'
import { decompose, differsFrom, isSheared } from '../math/transform'

/** Which of a thing's numbers are folded into its shape. */
export type BakeWhat = 'size' | 'turn' | 'both'

export type Baking = {
  /** What the mesh's points go through. */
  matrix: Matrix4
  operations: Operation[]
  /** Things whose look cannot be kept by any numbers on top of the new shape, because they would be skewed. */
  skewed: string[]
}

/**
 * Folds a placement's size, turn or both into its shape and puts those numbers to rest, so that it looks the same.
 *
 * With T·R·S·T(-p) as its matrix: size alone bakes S and leaves T·R; turn alone bakes S⁻¹·R·S and leaves T·S; both bake
 * R·S and leave T. The pivot goes through the same, so nothing moves. What hangs below keeps its place in the world.
 *
 * @param partId the part with the baked mesh, to be shown instead
 * @param others further placements of the same part, which get numbers that make them look as before on the new shape
 * @param matrix what was baked, if its size or turn may have changed since
 */
export function bake(
  level: LevelView,
  id: string,
  what: BakeWhat,
  partId: string,
  others: readonly string[] = [],
  matrix = bakingMatrix(level.need(id), what),
): Baking {
  const isAsBaked = matrix.equals(bakingMatrix(level.need(id), what))
  const inverse = matrix.clone().invert()
  const operations: Operation[] = []
  const skewed: string[] = []
  for (const each of [id, ...others]) {
    const placement = level.need(each)
    const pivot = new Vector3(...placement.pivot).applyMatrix4(matrix).toArray() as Vec3
    const before = localMatrix(placement, new Matrix4())
    const wanted = before.clone().multiply(inverse)
    const transform = each === id && isAsBaked ? atRest(placement, what) : decompose(wanted, pivot)
    const fields = { partId, ...transform, translation: placement.translation, pivot }
    const after = localMatrix({ ...placement, ...fields }, new Matrix4())
    if (differsFrom(wanted, after)) skewed.push(each)
    operations.push({ do: 'put', id: each, fields })
    for (const operation of keepChildren(level, each, after.clone().invert().multiply(before), skewed))
      operations.push(operation)
  }
  return { matrix, operations, skewed }
}

/**
 * Keeps the look of a placement that a change of the tree would skew: its whole shape under the new parent goes into a
 * mesh of its own, and its numbers to rest.
 *
 * @param operations those of the change; not done yet
 * @returns the matrix for its mesh, and the operation that goes behind the others. Null if it is a copy or has no
 *   shape, or if things hang below it, whose looks would then be at stake
 */
export function bakeSkewed(
  level: LevelView,
  operations: readonly Operation[],
  id: string,
  partId: string,
): { matrix: Matrix4; operation: Operation } | null {
  if (copyOf(id)) return null
  const placement = level.need(id)
  if (level.shapeOf(id) === null || level.hasChildren(id)) return null
  const put = operations.findLast(operation => operation.do === 'put' && operation.id === id)
  const parentId = put?.do === 'put' && put.fields.parentId !== undefined ? put.fields.parentId : placement.parentId
  const parent =
    parentId === null
      ? new Matrix4()
      : (previewMatrices(level, operations).get(parentId) ?? level.worldMatrix(parentId))
  const wanted = parent.clone().invert().multiply(level.worldMatrix(id))
  const matrix = wanted.clone().setPosition(0, 0, 0)
  const pivot = new Vector3(...placement.pivot)
  return {
    matrix,
    operation: {
      do: 'put',
      id,
      fields: {
        kind: 'part',
        partId,
        blockId: null,
        rotation: [0, 0, 0, 1],
        scale: [1, 1, 1],
        translation: pivot.clone().applyMatrix4(wanted).toArray(),
        pivot: pivot.applyMatrix4(matrix).toArray(),
      },
    },
  }
}

/** The numbers of a placement with its turn or its size thrown away; it goes on standing where it stands. */
export function reset(placement: Placement, what: 'size' | 'turn'): Partial<Placement> {
  return what === 'size' ? { scale: [1, 1, 1] } : { rotation: [0, 0, 0, 1] }
}

/** What a mesh's points go through when a placement's size, turn or both are baked. */
export function bakingMatrix({ rotation, scale }: Placement, what: BakeWhat): Matrix4 {
  const size = new Matrix4().makeScale(...scale)
  if (what === 'size') return size
  const turn = new Matrix4().makeRotationFromQuaternion(new Quaternion(...rotation))
  if (what === 'both') return turn.multiply(size)
  return size.clone().invert().multiply(turn).multiply(size)
}

function atRest({ rotation, scale }: Placement, what: BakeWhat): Pick<Placement, 'rotation' | 'scale'> {
  return { rotation: what === 'size' ? rotation : [0, 0, 0, 1], scale: what === 'turn' ? scale : [1, 1, 1] }
}

/** @param change from the old own axes to the new ones */
function keepChildren(level: LevelView, id: string, change: Matrix4, skewed: string[]): Operation[] {
  return level.children(id).map(child => {
    const placement = level.need(child)
    const wanted = change.clone().multiply(localMatrix(placement, new Matrix4()))
    const transform = decompose(wanted, placement.pivot)
    if (isSheared(wanted)) skewed.push(child)
    return { do: 'put', id: child, fields: transform }
  })
}
