import { Box3, Vector3 } from 'three'
import { dropOnto } from '../mesh/overlap'
import type { CheckSite } from './site'

/** The lowest of some things; of several the first by name. */
export function lowestOf(site: CheckSite, ids: ReadonlySet<string>): string {
  let best = { id: '', low: Infinity }
  for (const id of ids) {
    const low = site.boxOf(id).min.y
    if (low < best.low - 1e-9 || (Math.abs(low - best.low) <= 1e-9 && id < best.id)) best = { id, low }
  }
  return best.id
}

/**
 * How far things would fall together, by their triangles: onto what is below, or the ground plane; null if onto
 * nothing.
 */
export function dropOf(site: CheckSite, ids: ReadonlySet<string>, below: number): number | null {
  let drop = Infinity
  for (const id of ids) {
    const box = site.boxOf(id)
    const column = new Box3(
      new Vector3(box.min.x, box.min.y - below, box.min.z),
      new Vector3(box.max.x, box.max.y, box.max.z),
    )
    site.watch(column)
    for (const other of site.within(column, id)) {
      if (ids.has(other.id)) continue
      for (const own of site.own(id)) drop = Math.min(drop, dropOnto(own, other.placed) ?? Infinity)
    }
    if (box.min.y > 0) drop = Math.min(drop, box.min.y)
  }
  return drop === Infinity ? null : drop
}
