import type { Operation, Placement } from '~~/core/level/schema'
import type { Level } from '~~/core/level/level'
import { mergeOperations } from '~~/core/level/merge'
import { api } from '~/api/client'

/** A change as it was saved. */
export type SavedChange = { label: string; author: string; revision: number; operations: readonly Operation[] }

/** Changes that a recipe may be found among, at most. */
export const MOST_LOOKED_AT = 300

/** What was done to a level after a revision, up to now. Throws what the server answers. */
export async function changesSince(levelId: string, after: number): Promise<SavedChange[]> {
  const found: SavedChange[] = []
  for (let at = after; ; ) {
    const { revision, entries } = await api.journal(levelId, at)
    found.push(...entries)
    at = entries.at(-1)?.revision ?? revision
    if (at >= revision || found.length > MOST_LOOKED_AT) return found
  }
}

/**
 * Placements as they were after a revision.
 *
 * @param level as it is now
 * @returns by id; undefined for what was not there then
 */
export async function placementsAt(level: Level, levelId: string, revision: number) {
  const { operations } = await api.back(levelId, revision)
  const then = new Map<string, Placement | undefined>()
  for (const operation of mergeOperations(operations)) {
    if (operation.do === 'remove') then.set(operation.id, undefined)
    if (operation.do === 'put')
      then.set(operation.id, { ...level.get(operation.id)!, ...operation.fields, id: operation.id })
  }
  return (id: string): Placement | undefined => (then.has(id) ? then.get(id) : level.get(id))
}
