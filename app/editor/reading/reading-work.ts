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
  onHead: (head: { summary: LevelSummary; records: LevelRecords }) => void | Promise<void>
  onPlacements: (columns: PlacementColumns) => void | Promise<void>
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
    async read(
      bytes: Uint8Array,
      onHead: LevelNews['onHead'],
      onPlacements: LevelNews['onPlacements'],
    ): Promise<Unreadable[]> {
      // What is told and what is answered go different ways: the answer must not be there first.
      const told: (void | Promise<void>)[] = []
      const unreadable: Unreadable[] = []
      let isFirst = true
      for (const item of itemsOf(bytes)) {
        if (isFirst) {
          const { records, rest: summary } = splitRecords(headSchema.parse(readHead(item)))
          told.push(onHead({ summary, records }))
        } else {
          const { columns, unreadable: some } = readPacked(item)
          unreadable.push(...some)
          told.push(onPlacements(transfer(columns, buffersOf(columns))))
        }
        isFirst = false
      }
      await Promise.all(told)
      return unreadable
    },
  }
}

export type ReadingWork = ReturnType<typeof readingWork>
