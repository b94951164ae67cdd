import { Quaternion, Vector3 } from 'three'
import { localAxes } from '../handles/axes'
import { movePlacements } from '../handles/move'
import { pivotOf } from '../handles/pivot'
import { turnPlacements } from '../handles/turn'
import type { LevelIndex } from '../geometry/level-index'
import type { LevelDocument } from '../level/document'
import { quatToDegrees, degreesToQuat } from '../level/transform'
import type { Operation, Quat, Vec3 } from '../level/schema'
import { topmost } from '../level/tree'
import { tidy } from '../units/quantity'
import { extentOf } from './extent'

/** What is taken from the thing touched. */
export const MATCH_WHATS = ['position', 'turn', 'size', 'height'] as const
export type MatchWhat = (typeof MATCH_WHATS)[number]

/**
 * The operations that give placements the position, turn or size another thing has in the world, axis by axis, or its height.
 *
 * Position: of the pivot. Turn: about X, Y and Z as the ledger shows them, in the world. Size: as many metres along each own
 * axis as the other measures along its own. Height: as tall as the other, in the world, growing up from where it stands.
 *
 * @param axes which of the three are taken; of no meaning for height
 */
export function match(document: LevelDocument, index: LevelIndex, ids: Iterable<string>, from: string, what: MatchWhat, axes: readonly [boolean, boolean, boolean]): Operation[] {
  const tops = topmost(document, new Set(ids)).filter(id => id !== from)
  return tops.flatMap((id) => {
    switch (what) {
      case 'position': return matchPosition(document, id, from, axes)
      case 'turn': return matchTurn(document, id, from, axes)
      case 'size': return matchSize(document, index, id, from, axes)
      case 'height': return matchHeight(document, index, id, from)
    }
  })
}

function matchPosition(document: LevelDocument, id: string, from: string, axes: readonly boolean[]): Operation[] {
  const way = pivotOf(document, from).sub(pivotOf(document, id))
  return movePlacements(document, [id], new Vector3(...way.toArray().map((value, axis) => axes[axis] ? value : 0) as Vec3))
}

function matchTurn(document: LevelDocument, id: string, from: string, axes: readonly boolean[]): Operation[] {
  const [now, other] = [localAxes(document, id), localAxes(document, from)]
  const theirs = quatToDegrees(other.toArray() as Quat)
  const wanted = axes.every(Boolean) ? other : new Quaternion(...degreesToQuat(quatToDegrees(now.toArray() as Quat).map((value, axis) => axes[axis] ? theirs[axis]! : value) as Vec3))
  return turnPlacements(document, [id], wanted.multiply(now.invert()), null)
}

function matchSize(document: LevelDocument, index: LevelIndex, id: string, from: string, axes: readonly boolean[]): Operation[] {
  const [now, wanted] = [index.localSizeOf(id), index.localSizeOf(from)]
  if (!now || !wanted) return []
  const scale = document.need(id).scale.map((value, axis) => axes[axis] && now[axis]! > 0 && wanted[axis]! > 0 ? tidy(value * wanted[axis]! / now[axis]!) : value) as Vec3
  return [{ do: 'put', id, fields: { scale } }]
}

/** Sizes along that of its own axes that points up most, and keeps its foot where it is. */
function matchHeight(document: LevelDocument, index: LevelIndex, id: string, from: string): Operation[] {
  const world = new Quaternion()
  const [now, wanted] = [extentOf(document, index, id, world, 1), extentOf(document, index, from, world, 1)]
  const factor = (wanted.max - wanted.min) / (now.max - now.min)
  if (!Number.isFinite(factor) || factor <= 0) return []
  const basis = [new Vector3(), new Vector3(), new Vector3()] as const
  document.worldMatrix(id).extractBasis(...basis)
  const upright = basis.map(axis => Math.abs(axis.normalize().y)).findIndex(value => value > 1 - 1e-9)
  const { scale } = document.need(id)
  // Only an upright thing can be stretched; one that leans grows as a whole.
  const grown = scale.map((value, axis) => upright < 0 || axis === upright ? tidy(value * factor) : value) as Vec3
  const foot = now.pivot - (now.pivot - now.min) * factor
  const [moved] = movePlacements(document, [id], new Vector3(0, now.min - foot, 0))
  return [{ do: 'put', id, fields: { scale: grown, ...moved?.do === 'put' ? moved.fields : {} } }]
}
