import { and, desc, eq, isNotNull, isNull, lt } from 'drizzle-orm'
import { v7 } from 'uuid'
import type { LevelPatch, LevelSummary, NewLevel } from '../../core/api/schema'
import { lanternQuay } from '../../demo/lantern-quay'
import type { Database, Transaction } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { levels } from '../db/schema'
import { ApiError } from '../utils/api-error'
import type { Doer } from './accounts'
import { note } from './accounts'
import { duplicateContent, insertLevel } from './level-content'
import { demoPicture } from './seed'

/** A deleted level can be brought back for this long. */
const KEPT_DAYS = 30

export const summaryColumns = {
  id: levels.id,
  name: levels.name,
  revision: levels.revision,
  placementCount: levels.placementCount,
  pictureType: levels.pictureType,
  partId: levels.partId,
  createdAt: levels.createdAt,
  changedAt: levels.changedAt,
}

type SummaryRow = Pick<typeof levels.$inferSelect, keyof typeof summaryColumns>

export function toSummary({ pictureType, createdAt, changedAt, ...row }: SummaryRow): LevelSummary {
  return {
    ...row,
    hasPicture: pictureType !== null,
    createdAt: createdAt.toISOString(),
    changedAt: changedAt.toISOString(),
  }
}

/** All levels but workshops, the last changed first. */
export async function listLevels(db: Database): Promise<LevelSummary[]> {
  return (
    await db
      .select(summaryColumns)
      .from(levels)
      .where(and(isNull(levels.deletedAt), isNull(levels.partId)))
      .orderBy(desc(levels.changedAt))
  ).map(toSummary)
}

/** @throws ApiError 404 if there is no such level, or it was deleted */
export async function needLevel(db: Database | Transaction, id: string): Promise<LevelSummary> {
  const [row] = await db
    .select(summaryColumns)
    .from(levels)
    .where(and(eq(levels.id, id), isNull(levels.deletedAt)))
  if (!row) throw ApiError.notFound('level')
  return toSummary(row)
}

/** Starts a level: empty, from the demo, or as a duplicate. @throws ApiError 404 if there is nothing to duplicate */
export async function createLevel(db: Database, { name, from }: NewLevel): Promise<LevelSummary> {
  const id = v7()
  return inTransaction(
    db,
    async tx => {
      if (from === 'empty') await insertLevel(tx, id, name, { placements: [] })
      else if (from === 'demo') await insertLevel(tx, id, name, lanternQuay(), await demoPicture())
      else await duplicateLevel(tx, from, id, name)
      return needLevel(tx, id)
    },
    ONE_MOMENT,
  )
}

async function duplicateLevel(tx: Transaction, sourceId: string, id: string, name: string): Promise<void> {
  const [source] = await tx
    .select()
    .from(levels)
    .where(and(eq(levels.id, sourceId), isNull(levels.deletedAt)))
  if (!source) throw ApiError.notFound('level to duplicate')
  const { placementCount, picture, pictureType, kept } = source
  await tx.insert(levels).values({ id, name, placementCount, picture, pictureType, kept })
  await duplicateContent(tx, sourceId, id)
}

/** Renames a level or brings it back after it was deleted. @throws ApiError 404 */
export async function patchLevel(
  db: Database,
  by: Doer,
  id: string,
  { name, deleted }: LevelPatch,
): Promise<LevelSummary> {
  return inTransaction(db, async tx => {
    const back =
      deleted === false
        ? await tx
            .update(levels)
            .set({ deletedAt: null })
            .where(and(eq(levels.id, id), isNotNull(levels.deletedAt)))
            .returning({ name: levels.name })
        : []
    for (const level of back) await note(tx, by, 'level brought back', level.name, '')
    await needLevel(tx, id)
    if (name !== undefined) await tx.update(levels).set({ name }).where(eq(levels.id, id))
    return needLevel(tx, id)
  })
}

/**
 * Takes a level off the list; it can be brought back for some weeks.
 *
 * @throws ApiError 404; 409 for a workshop, which goes with its part
 */
export async function deleteLevel(db: Database, by: Doer, id: string): Promise<void> {
  await inTransaction(db, async tx => {
    const { name, partId } = await needLevel(tx, id)
    if (partId !== null)
      throw new ApiError(409, 'workshop', 'This is what a part is made of; it goes when the part is deleted.')
    await tx.update(levels).set({ deletedAt: new Date() }).where(eq(levels.id, id))
    await note(tx, by, 'level deleted', name, '')
  })
  await db.delete(levels).where(lt(levels.deletedAt, new Date(Date.now() - KEPT_DAYS * 86_400_000)))
}
