import { z } from 'zod'
import { firstIssue } from '../units/issue'
import type { Placement } from './schema'
import { placementSchema } from './schema'
import { kindSchema, KINDS } from './kinds'

/** A placement that cannot be shown as it is, and why. */
export type Unreadable = { id: string; name: string; field: string; message: string }

const namedSchema = z.looseObject({
  id: z.string().catch('?'),
  name: z.string().catch('?'),
  kind: kindSchema.optional().catch(undefined),
  own: z.unknown(),
})

/** What of placements can be read, and what cannot be shown as it is. */
export type ReadPlacements = { placements: Placement[]; unreadable: Unreadable[] }

/**
 * Reads the placements of a level as far as they can be read, so that one that cannot does not keep the others away.
 * What hangs below one that makes no sense at all hangs from the top.
 */
export function readPlacements(given: readonly unknown[]): ReadPlacements {
  const { placements, unreadable } = readEach(given)
  return { placements: unreadable.length === 0 ? placements : hungAnew(placements), unreadable }
}

/**
 * The same for some of the placements of a level.
 *
 * One whose own fields make no sense, such as a rule from before rules were looked at as closely as now, comes out as a
 * group: what hangs below it is there. One that makes no sense at all is left out.
 */
export function readEach(given: readonly unknown[]): ReadPlacements {
  const placements: Placement[] = []
  const unreadable: Unreadable[] = []
  for (const each of given) {
    const parsed = placementSchema.safeParse(each)
    if (parsed.success) {
      placements.push(parsed.data)
      continue
    }
    const { id, name, kind, own } = namedSchema.catch({ id: '?', name: '?', own: null }).parse(each)
    const inOwn = kind && KINDS[kind].own.safeParse(own).error
    const { path, message } = inOwn ? firstIssue(inOwn) : firstIssue(parsed.error)
    unreadable.push({ id, name, field: path.join('.'), message })
    const bare = placementSchema.safeParse(asGroup(Object(each) as Placement))
    if (bare.success) placements.push(bare.data)
  }
  return { placements, unreadable }
}

/** A thing without a shape: its place, its name and what hangs from it are there. */
export const asGroup = (placement: Placement): Placement => ({
  ...placement,
  kind: 'group',
  partId: null,
  blockId: null,
  own: {},
})

/** With what hangs from one that is not there hung from the top. */
export function hungAnew(placements: readonly Placement[]): Placement[] {
  const ids = new Set(placements.map(({ id }) => id))
  return placements.map(each => (each.parentId === null || ids.has(each.parentId) ? each : { ...each, parentId: null }))
}
