import { transfer } from 'comlink'
import type { LevelSummary } from '~~/core/api/schema'
import { levelSummarySchema } from '~~/core/api/schema'
import { fromColumns } from '~~/core/level/columns'
import type { LevelRecords } from '~~/core/level/level'
import type { Unreadable } from '~~/core/level/read'
import { hungAnew } from '~~/core/level/read'
import type { Placement } from '~~/core/level/schema'
import { api, ServerAway } from '~/api/client'
import { reportError } from '~/errors/page-errors'
import { WorkerHost } from '~/workers/host'
import type { LevelNews, ReadingWork } from './reading-work'

/** Seconds without a word from the worker, after which it is ended. */
const SILENCE = 60

/** What is in a level, as it was read, with what of it cannot be shown as it is. */
export type ReadContent = {
  content: { placements: Placement[] } & LevelRecords
  unreadable: readonly Unreadable[]
}
export type ReadLevel = ReadContent & { summary: LevelSummary }

/**
 * Reads a level from the server.
 *
 * @throws ApiFailure if there is no such level; ServerAway
 */
export async function readLevel(id: string): Promise<ReadLevel> {
  const { said, ...read } = await readPackedLevel(() => api.packedLevel(id))
  const summary = levelSummarySchema.safeParse(said)
  if (!summary.success) throw new ServerAway(UNREADABLE)
  return { ...read, summary: summary.data }
}

/** Reads what was in a level at a milestone. @throws ApiFailure if there is none; ServerAway */
export const readMilestone = (id: string): Promise<ReadContent> => readPackedLevel(() => api.packedMilestone(id))

const UNREADABLE = 'What the server sent of the level cannot be read. Try again.'

/**
 * What was sent is looked at by a worker, and becomes records some at a time: the page never stands still for long.
 */
async function readPackedLevel(ask: () => Promise<Uint8Array>): Promise<ReadContent & { said: unknown }> {
  const worker = new WorkerHost<ReadingWork>(
    () => new Worker(new URL('./reading-worker.ts', import.meta.url), { type: 'module' }),
    SILENCE,
  )
  let head: Parameters<LevelNews['onHead']>[0] | null = null
  const chunks: Placement[][] = []
  try {
    // It starts while the server writes.
    const [bytes] = await Promise.all([ask(), worker.ask(remote => remote.ready())])
    const asked = worker.ask((remote, heard) =>
      remote.read(
        transfer(bytes, [bytes.buffer]),
        heard(told => {
          head = told
        }),
        heard(columns => {
          chunks.push(fromColumns(columns))
        }),
      ),
    )
    const unreadable = await asked.catch((error: unknown) => {
      // What is wrong with it is for the log; the person is told what to do.
      reportError(error, 'worker')
      return null
    })
    if (!unreadable || !head) throw new ServerAway(UNREADABLE)
    const placements = chunks.flat()
    const { said, records } = head as Parameters<LevelNews['onHead']>[0]
    return {
      said,
      content: { placements: unreadable.length === 0 ? placements : hungAnew(placements), ...records },
      unreadable,
    }
  } finally {
    worker.end()
  }
}
