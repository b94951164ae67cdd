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

/**
 * Reads the placements of a level as far as they can be read, so that one that cannot does not keep the others away.
 *
 * One whose own fields make no sense, such as a rule from before rules were looked at as closely as now, comes out as a
 * group: what hangs below it is there. One that makes no sense at all is left out, and what hangs below it hangs from
 * the top.
 */
export function readPlacements(given: readonly unknown[]): { placements: Placement[]; unreadable: Unreadable[] } {
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
    const asGroup = placementSchema.safeParse({ ...Object(each), kind: 'group', partId: null, blockId: null, own: {} })
    if (asGroup.success) placements.push(asGroup.data)
  }
  if (unreadable.length === 0) return { placements, unreadable }
  const ids = new Set(placements.map(({ id }) => id))
  return {
    placements: placements.map(each =>
      each.parentId === null || ids.has(each.parentId) ? each : { ...each, parentId: null },
    ),
    unreadable,
  }
}
