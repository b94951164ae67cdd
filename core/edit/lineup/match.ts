import { Quaternion, Vector3 } from 'three'
import { localAxes } from '../handles/axes'
import { movePlacements } from '../handles/move'
import { pivotOf } from '../handles/pivot'
import { turnPlacements } from '../handles/turn'
import type { LevelIndex } from '../../scene/level-index'
import type { Level } from '../../level/level'
import { quatToDegrees, degreesToQuat } from '../../math/transform'
import type { Operation } from '../../level/schema'
import type { Quat, Vec3 } from '../../math/vectors'
import { topmost } from '../../level/tree'
import { tidy } from '../../units/quantity'
import { extentOf } from './extent'

/** What is taken from the thing touched. */
export const MATCHES = ['position', 'turn', 'size', 'height'] as const
export type MatchWhat = (typeof MATCHES)[number]

/** What is taken from which thing, and along which of the three axes; along all when left out. */
export type Matching = { from: string; what: MatchWhat; axes?: readonly [boolean, boolean, boolean] }

/**
 * The operations that give placements the position, turn or size another thing has in the world, axis by axis, or its
 * height.
 *
 * Position: of the pivot. Turn: about X, Y and Z as the ledger shows them, in the world. Size: as many metres along
 * each own axis as the other measures along its own. Height: as tall as the other, in the world, growing up from where
 * it stands.
 */
export function match(
  level: Level,
  index: LevelIndex,
  ids: Iterable<string>,
  { from, what, axes = [true, true, true] }: Matching,
): Operation[] {
  const tops = topmost(level, new Set(ids)).filter(id => id !== from)
  return tops.flatMap(id => {
    switch (what) {
      case 'position':
        return matchPosition(level, id, from, axes)
      case 'turn':
        return matchTurn(level, id, from, axes)
      case 'size':
        return matchSize(level, index, id, from, axes)
      case 'height':
        return matchHeight(level, index, id, from)
    }
  })
}

function matchPosition(level: Level, id: string, from: string, axes: readonly boolean[]): Operation[] {
  const way = pivotOf(level, from).sub(pivotOf(level, id))
  return movePlacements(
    level,
    [id],
    new Vector3(...(way.toArray().map((value, axis) => (axes[axis] ? value : 0)) as Vec3)),
  )
}

function matchTurn(level: Level, id: string, from: string, axes: readonly boolean[]): Operation[] {
  const [now, other] = [localAxes(level, id), localAxes(level, from)]
  const theirs = quatToDegrees(other.toArray() as Quat)
  const wanted = axes.every(Boolean)
    ? other
    : new Quaternion(
        ...degreesToQuat(
          quatToDegrees(now.toArray() as Quat).map((value, axis) => (axes[axis] ? theirs[axis]! : value)) as Vec3,
        ),
      )
  return turnPlacements(level, [id], wanted.multiply(now.invert()), null)
}

function matchSize(level: Level, index: LevelIndex, id: string, from: string, axes: readonly boolean[]): Operation[] {
  const [now, wanted] = [index.extents.localSizeOf(id), index.extents.localSizeOf(from)]
  if (!now || !wanted) return []
  const scale = level
    .need(id)
    .scale.map((value, axis) =>
      axes[axis] && now[axis]! > 0 && wanted[axis]! > 0 ? tidy((value * wanted[axis]!) / now[axis]!) : value,
    ) as Vec3
  return [{ do: 'put', id, fields: { scale } }]
}

/** Sizes along that of its own axes that points up most, and keeps its foot where it is. */
function matchHeight(level: Level, index: LevelIndex, id: string, from: string): Operation[] {
  const world = new Quaternion()
  const [now, wanted] = [extentOf(level, index, id, world, 1), extentOf(level, index, from, world, 1)]
  const factor = (wanted.max - wanted.min) / (now.max - now.min)
  if (!Number.isFinite(factor) || factor <= 0) return []
  const basis = [new Vector3(), new Vector3(), new Vector3()] as const
  level.worldMatrix(id).extractBasis(...basis)
  const upright = basis.map(axis => Math.abs(axis.normalize().y)).findIndex(value => value > 1 - 1e-9)
  const { scale } = level.need(id)
  // Only an upright thing can be stretched; one that leans grows as a whole.
  const grown = scale.map((value, axis) => (upright < 0 || axis === upright ? tidy(value * factor) : value)) as Vec3
  const foot = now.pivot - (now.pivot - now.min) * factor
  const [moved] = movePlacements(level, [id], new Vector3(0, now.min - foot, 0))
  return [{ do: 'put', id, fields: { scale: grown, ...(moved?.do === 'put' ? moved.fields : {}) } }]
}
