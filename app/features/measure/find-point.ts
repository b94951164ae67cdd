import { Vector3 } from 'three'
import { findLanding } from '~~/core/edit/snap/landing'
import { findSnapPoint, SNAP_POINT_KINDS, SNAP_POINT_NAMES } from '~~/core/edit/snap/vertex'
import type { PointerAt } from '~/editor/tools/gesture'
import type { ToolWorld } from '~/editor/tools/tool-world'

/** A point of a thing or of the ground plane, and what it is of it, in words. */
export type FoundPoint = { at: Vector3; on: string | null; says: string }

/**
 * The point that is meant by the pointer: what vertex snap catches, what is under it, or the ground plane on its grid.
 *
 * @param snaps whether points are caught; with Ctrl they never are
 * @param from the end it is measured from, for right angles on edges
 */
export function findPoint(
  world: ToolWorld,
  pointer: PointerAt,
  { snaps, from }: { snaps: boolean; from: Vector3 | null },
): FoundPoint | null {
  const [level, index] = [world.level(), world.finder()]
  const aim = world.stage.viewAt(pointer).aim(pointer)
  const caught =
    snaps && !pointer.ctrl ? findSnapPoint(level, index, aim, new Set(SNAP_POINT_KINDS), () => true, from) : null
  if (caught)
    return {
      at: caught.point.clone(),
      on: caught.copy ?? caught.id,
      says: `${SNAP_POINT_NAMES[caught.kind]} of ${world.nameOf(caught.id)}`,
    }
  const hit = index.raycast(aim.ray)
  if (hit) return { at: hit.point.clone(), on: hit.copy ?? hit.id, says: `on ${world.nameOf(hit.id)}` }
  const landing = findLanding(index, aim.ray, world.step('grid', pointer.ctrl).size, () => true)
  return landing && { at: new Vector3(...landing.point), on: null, says: 'on the ground plane' }
}
