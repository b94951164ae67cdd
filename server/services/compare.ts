import type { CompareQuery } from '../../core/api/milestones'
import type { Side } from '../../core/compare/table'
import { comparisonOf, comparisonTable } from '../../core/compare/table'
import { Level } from '../../core/level/level'
import { readPlacements } from '../../core/level/read'
import type { Database } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { readContent } from './level-content'
import { needLevel } from './levels'
import { contentAt, needMilestone } from './milestones'

type State = { level: Level; side: Side }

/**
 * What became of a level since another, or since a milestone, as JSON or as a table. For a process of its own.
 *
 * @returns its bytes
 * @throws ApiError 404
 */
export async function compareJob(
  db: Database,
  { id, query: { level, milestone, as } }: { id: string; query: CompareQuery },
): Promise<Uint8Array> {
  const from = milestone === undefined ? await asItIs(db, level!) : await atMilestone(db, milestone)
  const to = await asItIs(db, id)
  const found = comparisonOf(from.level, to.level, { from: from.side, to: to.side })
  return Buffer.from(as === 'json' ? JSON.stringify(found) : comparisonTable(found))
}

const asItIs = (db: Database, id: string): Promise<State> =>
  inTransaction(
    db,
    async tx => {
      const { name, revision } = await needLevel(tx, id)
      const { placements, ...records } = await readContent(tx, id)
      return { level: new Level(readPlacements(placements).placements, records), side: { name, revision } }
    },
    { ...ONE_MOMENT, accessMode: 'read only' },
  )

async function atMilestone(db: Database, id: string): Promise<State> {
  const { name, revision } = await needMilestone(db, id)
  const { placements, ...records } = await contentAt(db, id)
  return { level: new Level(placements, records), side: { name, revision } }
}
