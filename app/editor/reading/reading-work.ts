import { transfer } from 'comlink'
import type { PlacementColumns } from '~~/core/level/columns'
import { buffersOf } from '~~/core/level/columns'
import type { LevelRecords } from '~~/core/level/level'
import { splitRecords } from '~~/core/level/level'
import { itemsOf, readHead, readPacked } from '~~/core/level/packed'
import { recordsSchema } from '~~/core/level/unpack'
import type { Unreadable } from '~~/core/level/read'

/** What is read of a level: first what is said of it and its small records, then its placements, some at a time. */
export type LevelNews = {
  onHead: (head: { said: unknown; records: LevelRecords }) => void | Promise<void>
  onPlacements: (columns: PlacementColumns) => void | Promise<void>
}

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
          const head = readHead(item)
          const { rest: said } = splitRecords(head as Record<string, unknown> & LevelRecords)
          told.push(onHead({ said, records: recordsSchema.parse(head) }))
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
