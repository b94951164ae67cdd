import type { Level } from './level'
import type { Operation, Placement } from './schema'
import type { Vec3 } from '../math/vectors'
import { degreesToQuat, quatToDegrees } from '../math/transform'

/** The three rows of exact numbers of a placement. */
export type TransformRow = 'position' | 'turn' | 'size'

/** A placement's numbers as a person reads them: metres in the parent's axes, degrees, factors. */
export function transformNumbers({
  translation,
  rotation,
  scale,
}: Pick<Placement, 'translation' | 'rotation' | 'scale'>): Record<TransformRow, Vec3> {
  return { position: translation, turn: quatToDegrees(rotation), size: scale }
}

/**
 * The operations that change one number of each placement and leave all others as they are.
 * @param next makes the new number of the one that is there
 */
export function changeTransformNumber(
  level: Level,
  ids: Iterable<string>,
  row: TransformRow,
  axis: 0 | 1 | 2,
  next: (now: number, id: string) => number,
): Operation[] {
  return [...ids].map(id => {
    const numbers = transformNumbers(level.need(id))[row]
    const changed = numbers.with(axis, next(numbers[axis], id)) as Vec3
    const fields =
      row === 'position'
        ? { translation: changed }
        : row === 'turn'
          ? { rotation: degreesToQuat(changed) }
          : { scale: changed }
    return { do: 'put', id, fields }
  })
}

/**
 * The operations that remove placements with everything below them, children before their parents, and the blocks
 * nothing shows any more.
 */
export function removeWithChildren(level: Level, ids: Iterable<string>): Operation[] {
  const all = new Set([...ids].flatMap(id => level.subtree(id)))
  const blocks = new Set([...all].flatMap(id => level.need(id).blockId ?? []))
  if (blocks.size > 0)
    for (const { id, blockId } of level.placements()) if (blockId !== null && !all.has(id)) blocks.delete(blockId)
  return [
    ...[...all].toReversed().map((id): Operation => ({ do: 'remove', id })),
    ...[...blocks].map((id): Operation => ({ do: 'remove-block', id })),
  ]
}
