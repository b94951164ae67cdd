import { KINDS } from './kinds'
import type { Level } from './level'
import type { Placement, PlacementFields } from './schema'

/** A placement at rest at its parent's origin, with `given` in place of the defaults. */
export function createPlacement(given: Pick<Placement, 'id' | 'name' | 'kind'> & Partial<PlacementFields>): Placement {
  return {
    parentId: null, order: 0, partId: null, blockId: null, translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1], pivot: [0, 0, 0],
    hidden: false, locked: false, layerId: null, own: KINDS[given.kind].first, ...given,
  }
}

/** `base` with the smallest number behind it that no placement's name has: "Crate 4". */
export function freeName(level: Level, base: string): string {
  const taken = new Set<string>()
  for (const { name } of level.placements()) if (name.startsWith(base)) taken.add(name)
  let number = 1
  while (taken.has(`${base} ${number}`)) number++
  return `${base} ${number}`
}

/** An order that puts a new placement behind its siblings-to-be. */
export function lastOrder(level: Level, parentId: string | null): number {
  const last = level.children(parentId).at(-1)
  return last === undefined ? 0 : level.need(last).order + 1
}
