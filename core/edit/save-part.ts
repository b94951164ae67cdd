import { Box3, Matrix4, Quaternion, Vector3 } from 'three'
import { copiedRelations, puttingRelations } from './copied'
import { gatherThings, pasteThings } from './things'
import { createPlacement, freeName, lastOrder } from '../level/create'
import { removeWithChildren } from '../level/edit'
import type { Operation, Placement } from '../level/schema'
import { topmost } from '../level/tree'
import { decompose, isSheared, localMatrix } from '../math/transform'
import type { Quat, Vec3 } from '../math/vectors'
import { copyOf } from '../scene/copy-id'
import type { LevelIndex } from '../scene/level-index'
import type { LevelView } from '../scene/level-view'
import { bareView } from '../scene/level-view'

/** Where a part's own axes lie, in the world: its pivot is the origin of them. */
export type PartFrame = { origin: Vec3; rotation: Quat }

/** The box around things along the axes of a turn, in those axes. */
export function boxAlong(level: LevelView, index: LevelIndex, ids: Iterable<string>, rotation: Quat): Box3 {
  const toAxes = new Matrix4().makeRotationFromQuaternion(new Quaternion(...rotation).invert())
  const [box, each, point] = [new Box3(), new Matrix4(), new Vector3()]
  for (const id of topmost(level, new Set(ids))) {
    for (const below of level.subtree(id)) {
      for (const { solid, matrix } of index.shownBy(below)) {
        each.multiplyMatrices(toAxes, matrix)
        solid.eachPlace((x, y, z) => box.expandByPoint(point.set(x, y, z).applyMatrix4(each)))
      }
    }
  }
  return box
}

/**
 * What puts things, with all that hangs below them, into an empty level in the axes of a part that is to be made of
 * them.
 *
 * @param newId of what is put there: it is other than what it was made of
 * @returns the operations, and the names of those that no position, turn and size can describe without what they hang
 *   from
 * @throws RangeError for more things than can be copied at once
 */
export function thingsAsPart(
  level: LevelView,
  ids: Iterable<string>,
  { origin, rotation }: PartFrame,
  newId: () => string,
): { operations: Operation[]; skewed: string[] } {
  const chosen = topmost(level, new Set(ids))
  const skewed = chosen.filter(id => isSheared(level.worldMatrix(id))).map(id => level.need(id).name)
  const toPart = new Matrix4()
    .compose(new Vector3(...origin), new Quaternion(...rotation), new Vector3(1, 1, 1))
    .invert()
  const { operations, tops, copied } = pasteThings(
    bareView(),
    gatherThings(level, chosen, null, () => '', newId),
    null,
    () => true,
    newId,
  )
  const atTop = new Set(tops)
  const { within } = copiedRelations(copied.relations ?? [], copied.made![0]!)
  return {
    skewed,
    operations: [...operations, ...puttingRelations(within, newId)].map((operation): Operation => {
      if (operation.do !== 'put' || !atTop.has(operation.id)) return operation
      const fields = operation.fields as Placement
      return {
        ...operation,
        fields: { ...fields, ...decompose(localMatrix(fields, new Matrix4()).premultiply(toPart), fields.pivot) },
      }
    }),
  }
}

/**
 * The operations that put an instance of a part in the place of the things it was made of. It hangs where the last of
 * them did; at the top, where that is skewed or an arrangement makes copies of it.
 */
export function replaceByPart(
  level: LevelView,
  ids: readonly string[],
  id: string,
  part: { id: string; name: string },
  { origin, rotation }: PartFrame,
): Operation[] {
  const chosen = topmost(level, new Set(ids))
  const last = chosen.at(-1)!
  const world = new Matrix4().compose(new Vector3(...origin), new Quaternion(...rotation), new Vector3(1, 1, 1))
  const above = copyOf(last) ? null : level.need(last).parentId
  const within = above === null ? world : world.clone().premultiply(level.worldMatrix(above).clone().invert())
  const parentId = isSheared(within) ? null : above
  const { id: made, ...fields } = createPlacement({
    id,
    name: freeName(level, part.name),
    kind: 'part',
    partId: part.id,
    parentId,
    order: parentId === null ? lastOrder(level, null) : level.need(last).order,
    ...decompose(parentId === null ? world : within, [0, 0, 0]),
  })
  return [{ do: 'put', id: made, fields }, ...removeWithChildren(level, chosen)]
}
