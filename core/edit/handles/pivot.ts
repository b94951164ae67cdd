import type { Box3 } from 'three'
import { Matrix4, Vector3 } from 'three'
import type { LevelIndex } from '../../scene/level-index'
import type { Level } from '../../level/level'
import type { Operation, Placement } from '../../level/schema'
import type { Vec3 } from '../../math/vectors'
import { localMatrix } from '../../math/transform'
import { topmost } from '../../level/tree'
import { tidy } from '../../units/quantity'
import { toMicrometre } from '../../math/micrometre'

/** The point things turn and grow around. */
export const PIVOT_MODES = ['own', 'each', 'middle', 'last', 'origin', 'pin'] as const
export type PivotMode = (typeof PIVOT_MODES)[number]

/** Where a placement's pivot stands, in the world. */
export function pivotOf(level: Level, id: string): Vector3 {
  return new Vector3(...level.need(id).translation).applyMatrix4(level.parentMatrix(id))
}

/**
 * The point of the world a mode means for what is picked.
 *
 * Own is the pivot of the one thing picked, and the middle of the pivots of several. Each is where the handles stand,
 * at the last picked; the things themselves turn and grow each around its own. Middle is the middle of the box around
 * all.
 */
export function pivotPoint(
  mode: PivotMode,
  level: Level,
  index: LevelIndex,
  ids: Iterable<string>,
  last: string,
  pin: Vec3,
): Vector3 {
  const chosen = topmost(level, new Set(ids))
  switch (mode) {
    case 'each':
    case 'last':
      return pivotOf(level, last)
    case 'origin':
      return new Vector3()
    case 'pin':
      return new Vector3(...pin)
    case 'own':
      return chosen.reduce((sum, id) => sum.add(pivotOf(level, id)), new Vector3()).divideScalar(chosen.length)
    case 'middle': {
      const box = index.extents.boundsOf(chosen.flatMap(id => level.subtree(id)))
      return box.isEmpty() ? pivotPoint('own', level, index, ids, last, pin) : box.getCenter(new Vector3())
    }
  }
}

/** A place in a box: -1, 0 or 1 along each of its axes, 27 in all. */
export type PivotPlace = readonly [-1 | 0 | 1, -1 | 0 | 1, -1 | 0 | 1]

export const PIVOT_PLACES: readonly PivotPlace[] = [-1, 0, 1].flatMap(y =>
  [-1, 0, 1].flatMap(z => [-1, 0, 1].map(x => [x, y, z] as PivotPlace)),
)

/** The point of a box at a place. Free of single-precision crumbs: meshes are good to a micrometre. */
export function placeInBox({ min, max }: Box3, place: PivotPlace): Vec3 {
  return [0, 1, 2].map(axis => {
    const [low, high] = [min.getComponent(axis), max.getComponent(axis)]
    return toMicrometre(low + ((high - low) * (place[axis]! + 1)) / 2)
  }) as Vec3
}

/** The place a pivot is at, to a tenth of a millimetre; null if it is none of the 27. */
export function placeOfPivot(box: Box3, pivot: Vec3): PivotPlace | null {
  return (
    PIVOT_PLACES.find(place => placeInBox(box, place).every((value, axis) => Math.abs(value - pivot[axis]!) < 1e-4))
    ?? null
  )
}

/**
 * The fields that put a placement's pivot elsewhere in its own axes; the placement stays where it is: t' = t + R·S·(p'
 * - p).
 */
function withPivot(placement: Placement, pivot: Vec3): Pick<Placement, 'pivot' | 'translation'> {
  const at = new Vector3(...pivot).applyMatrix4(localMatrix(placement, new Matrix4()))
  return { pivot, translation: [tidy(at.x), tidy(at.y), tidy(at.z)] }
}

/** The operations that put the pivots of placements to the same point of their own axes. */
export function setPivots(level: Level, ids: Iterable<string>, pivot: Vec3): Operation[] {
  return [...ids].map(id => ({ do: 'put', id, fields: withPivot(level.need(id), pivot) }))
}

/** A point of the world in a placement's own axes. */
export function toOwn(level: Level, id: string, point: Vector3): Vec3 {
  return point.clone().applyMatrix4(level.worldMatrix(id).clone().invert()).toArray().map(tidy) as Vec3
}
