import type { OnShare } from '../../core/formats/out/share'
import { eq, getTableColumns, sql } from 'drizzle-orm'
import type { LevelRecords } from '../../core/level/level'
import { Level } from '../../core/level/level'
import type { Placement } from '../../core/level/schema'
import { putRows } from '../db/bulk'
import type { Transaction } from '../db/client'
import { placementToRow, rowToPlacement } from '../db/rows'
import { levels, placements } from '../db/schema'
import { loadSmall, SMALL_TABLES } from './small-tables'

/** What is in a level. */
export type LevelContent = { placements: Placement[] } & Partial<LevelRecords>

/** All of a level as records. Its size is the level's: for work that is done in a process of its own. */
export async function readContent(tx: Transaction, id: string): Promise<LevelContent> {
  const rows = await tx.select().from(placements).where(eq(placements.levelId, id))
  return { placements: rows.map(rowToPlacement), ...(await loadSmall(tx, id)) }
}

export async function insertLevel(
  tx: Transaction,
  id: string,
  name: string,
  content: LevelContent,
  picture?: Uint8Array,
  onShare?: OnShare,
): Promise<void> {
  await tx
    .insert(levels)
    .values({ id, name, placementCount: content.placements.length, picture, pictureType: picture && 'image/webp' })
  const level = new Level([], content)
  for (const table of SMALL_TABLES) await table.write(tx, id, level, [...table.of(level).keys()])
  await putRows(
    tx,
    placements,
    content.placements.map(placement => placementToRow(id, placement)),
    onShare,
  )
}

/** Puts the content of one level into another, new one, within the database: nothing of it comes here. */
export async function duplicateContent(tx: Transaction, from: string, to: string): Promise<void> {
  for (const table of SMALL_TABLES) await table.duplicate(tx, from, to)
  await tx.insert(placements).select(
    tx
      .select({ ...getTableColumns(placements), levelId: sql<string>`${to}::uuid`.as('level_id') })
      .from(placements)
      .where(eq(placements.levelId, from)),
  )
}
