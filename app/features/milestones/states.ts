import { transfer } from 'comlink'
import { buffersOf, toColumns } from '~~/core/level/columns'
import type { LevelRecords } from '~~/core/level/level'
import { recordsOf } from '~~/core/level/level'
import { asGroup } from '~~/core/level/read'
import type { Placement } from '~~/core/level/schema'
import type { Reading } from '~~/core/compare/effects'
import type { LevelView } from '~~/core/scene/level-view'
import { ApiFailure } from '~/api/client'
import type { useKit } from '~/editor/kit'
import { readLevel, readMilestone } from '~/editor/reading/read-level'
import { WorkerHost } from '~/workers/host'
import type { CompareNews, CompareWork, State } from './compare-work'

/** What a level is compared with: a milestone of it, or another level; and the milestone at which both began. */
export type Other = {
  what: 'milestone' | 'level'
  id: string
  name: string
  base: string | null
  reading: Reading
}

type Content = { placements: Placement[] } & LevelRecords

/** Placements that the worker is handed at a time: more would keep the page from all else for too long. */
const SLICE = 2000
/** Seconds without a word from the worker, after which it is ended. */
const SILENCE = 60

/** What a level and another state are compared in: a worker with both. */
export class ComparedStates {
  readonly host = new WorkerHost<CompareWork>(
    () => new Worker(new URL('./compare-worker.ts', import.meta.url), { type: 'module' }),
    SILENCE,
  )

  /**
   * Reads the other state and compares the level with it.
   *
   * @param kit things whose part is not in it any more are groups in the other state
   * @param onTaken is called when the level is taken as it is: what is done after that has to be told
   * @returns what differs, and how many things show parts that are gone; null if it was ended meanwhile
   * @throws ApiFailure, ServerAway; WorkerTooLong
   */
  async open(
    view: LevelView,
    { what, id, base, reading }: Other,
    kit: ReturnType<typeof useKit>,
    onTaken: () => void = () => {},
  ): Promise<{ news: CompareNews; gone: number } | null> {
    const [there, began] = await Promise.all([
      what === 'milestone' ? readMilestone(id) : readLevel(id),
      base === null ? null : readMilestone(base).catch(orGone),
    ])
    const hasPart = await hasPartsIn(kit, partsIn(there.content.placements))
    const isGone = ({ partId }: Placement) => partId !== null && !hasPart(partId)
    const gone = there.content.placements.filter(isGone).length
    const asShown = (each: Placement) => (isGone(each) ? asGroup(each) : each)
    const { placements: _all, ...records } = there.content
    const states: Record<State, { placements: Placement[]; records: LevelRecords | null }> = {
      here: { placements: [...view.placements()], records: recordsOf(view) },
      there: { placements: there.content.placements.map(asShown), records },
      base: { placements: began?.content.placements.map(asShown) ?? [], records: began && recordsIn(began.content) },
    }
    onTaken()
    const news = await this.host.ask(async remote => {
      for (const [state, { placements }] of Object.entries(states) as [State, { placements: Placement[] }][])
        for (let from = 0; from < placements.length; from += SLICE) {
          const columns = toColumns(placements.slice(from, from + SLICE))
          await remote.take(state, transfer(columns, buffersOf(columns)))
        }
      return remote.open({ here: states.here.records, there: states.there.records, base: states.base.records }, reading)
    })
    return news && { news, gone }
  }

  end(): void {
    this.host.end()
  }
}

/** Whether the kit has parts, with those that others have made meanwhile. */
async function hasPartsIn(kit: ReturnType<typeof useKit>, ids: readonly string[]): Promise<(id: string) => boolean> {
  await kit.loadMissing(ids)
  return id => kit.part(id) !== undefined
}

const partsIn = (placements: readonly Placement[]) => [...new Set(placements.flatMap(({ partId }) => partId ?? []))]

/** Where both began may be forgotten: then it is not known who changed what. */
function orGone(error: unknown): null {
  if (error instanceof ApiFailure && error.status === 404) return null
  throw error
}

function recordsIn({ placements: _all, ...records }: Content): LevelRecords {
  return records
}
