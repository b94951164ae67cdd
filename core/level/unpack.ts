import { z } from 'zod'
import { fromColumns } from './columns'
import type { LevelRecords } from './level'
import { TABLE_OF } from './level'
import { itemsOf, readHead, readPacked } from './packed'
import type { Unreadable } from './read'
import { hungAnew } from './read'
import type { Placement } from './schema'
import { RECORD_NAMES, RECORDS } from './schema'

/** The tables of small records as they are written down; those of kinds that were not known then are empty. */
export const recordTables = Object.fromEntries(
  RECORD_NAMES.map(name => [TABLE_OF[name], z.array(RECORDS[name]).default([])]),
) as unknown as { [K in keyof LevelRecords]: z.ZodType<LevelRecords[K]> }

export const recordsSchema = z.object(recordTables)

/**
 * All of a packed level at once, for what has it whole anyway.
 *
 * @throws UnreadableLevel, ZodError if it is no packed level
 */
export function unpackLevel(bytes: Uint8Array): {
  placements: Placement[]
  records: LevelRecords
  unreadable: Unreadable[]
} {
  let records: LevelRecords | null = null
  const [placements, unreadable]: [Placement[], Unreadable[]] = [[], []]
  for (const item of itemsOf(bytes)) {
    if (!records) {
      records = recordsSchema.parse(readHead(item))
      continue
    }
    const read = readPacked(item)
    for (const each of fromColumns(read.columns)) placements.push(each)
    unreadable.push(...read.unreadable)
  }
  return {
    placements: unreadable.length === 0 ? placements : hungAnew(placements),
    records: records ?? recordsSchema.parse({}),
    unreadable,
  }
}
