import { sql } from 'drizzle-orm'
import type { Connection } from '../db/client'
import { MOST_REVISION } from '../../core/formats/level-file'
import { changes, levels } from '../db/schema'
import { log } from '../utils/log'

/**
 * Mends levels that nobody could save to, from before files were looked at as closely as now: whose journal goes on
 * after their last change, or whose number of changes is as high as the database counts. What is in the level stays as
 * it is. Done when a server starts; what was mended is said in the log.
 */
export async function mendLevels(db: Connection): Promise<void> {
  await db.transaction(async tx => {
    const tooHigh = await tx.execute<{ id: string; name: string }>(
      sql`update ${levels} set revision = (select coalesce(max(${changes.revision}), 0) from ${changes} where ${changes.levelId} = ${levels.id} and ${changes.revision} <= ${MOST_REVISION}) where ${levels.revision} > ${MOST_REVISION} returning id, name`,
    )
    for (const { id, name } of tooHigh.rows)
      log.warn(
        { level: id, name },
        'mended: the level counted too many changes to be saved to; it counts those that are known',
      )
    const ahead = await tx.execute<{
      id: string
      name: string
      count: string
    }>(sql`with gone as (delete from ${changes} using ${levels} where ${changes.levelId} = ${levels.id} and ${changes.revision} > ${levels.revision} returning ${changes.levelId} as id)
      select ${levels.id} as id, ${levels.name} as name, count(*) as count from gone join ${levels} on ${levels.id} = gone.id group by 1, 2`)
    for (const { id, name, count } of ahead.rows)
      log.warn(
        { level: id, name, changes: Number(count) },
        'mended: changes were noted that are not in the level, so that nobody could save to it; they are taken off its list',
      )
  })
}
