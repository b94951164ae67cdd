import type { LevelRecords } from '../../level/level'
import type { Placement, RecordName } from '../../level/schema'
import { RECORD_NAMES, RECORDS } from '../../level/schema'
import { TABLE_OF } from '../../level/level'
import type { Mesh } from '../../mesh/mesh'
import type { Picture } from '../../mesh/texture'
import type { PartFacts } from '../out/shapes'

/** A part that comes with a level. */
export type IncomingPart = {
  /** By which the level's placements call it; its own id, if it is known. */
  id: string
  name: string
  mesh: Mesh
  facts?: PartFacts
}

/** A level as it was read from a file, before anything of it is stored. */
export type ImportedLevel = {
  name: string
  placements: Placement[]
  records: LevelRecords
  parts: IncomingPart[]
  /** Of the parts' textures, by the SHA-256 of their bytes. */
  pictures: ReadonlyMap<string, Picture>
  /** What is left out, or taken otherwise than it was meant, in plain words. */
  notes: string[]
}

/** Placements of one level that are brought in at once. */
export const MOST_PLACEMENTS = 200_000

/** A level's small records as far as they can be read; how many cannot. @param given by what a level calls them */
export function readRecords(given: Readonly<Record<string, unknown>>): { records: LevelRecords; unreadable: number } {
  let unreadable = 0
  const records = {} as Record<string, unknown[]>
  for (const name of RECORD_NAMES) {
    const list = given[TABLE_OF[name]]
    const seen = new Set<string>()
    records[TABLE_OF[name]] = Array.isArray(list)
      ? list.flatMap((each: unknown) => {
          const read = RECORDS[name satisfies RecordName].safeParse(each)
          if (read.success && !seen.has(read.data.id)) {
            seen.add(read.data.id)
            return [read.data]
          }
          unreadable++
          return []
        })
      : []
  }
  return { records: records as unknown as LevelRecords, unreadable }
}
