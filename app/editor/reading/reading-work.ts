import { transfer } from 'comlink'
import type { LevelSummary } from '~~/core/api/schema'
import { levelSchema } from '~~/core/api/schema'
import type { PlacementColumns } from '~~/core/level/columns'
import { buffersOf } from '~~/core/level/columns'
import type { LevelRecords } from '~~/core/level/level'
import { splitRecords } from '~~/core/level/level'
import { itemsOf, readHead, readPacked } from '~~/core/level/packed'
import type { Unreadable } from '~~/core/level/read'

/** What is read of a level: first what it has besides placements, then those, some at a time. */
export type LevelNews = {
  onHead: (head: { summary: LevelSummary; records: LevelRecords }) => void
  onPlacements: (columns: PlacementColumns) => void
}

const headSchema = levelSchema.omit({ placements: true })

/** Reads packed levels: unpacks and looks at everything in them. */
export function readingWork() {
  return {
    /** Answers when it has started. */
    ready: () => true,

    /**
     * @param bytes as `core/level/packed` describes them
     * @returns what of the placements cannot be shown as it is
     * @throws UnreadableLevel, ZodError if it is no packed level
     */
    read(bytes: Uint8Array, onHead: LevelNews['onHead'], onPlacements: LevelNews['onPlacements']): Unreadable[] {
      const unreadable: Unreadable[] = []
      let isFirst = true
      for (const item of itemsOf(bytes)) {
        if (isFirst) {
          const { records, rest: summary } = splitRecords(headSchema.parse(readHead(item)))
          onHead({ summary, records })
        } else {
          const { columns, unreadable: some } = readPacked(item)
          unreadable.push(...some)
          onPlacements(transfer(columns, buffersOf(columns)))
        }
        isFirst = false
      }
      return unreadable
    },
  }
}

export type ReadingWork = ReturnType<typeof readingWork>
