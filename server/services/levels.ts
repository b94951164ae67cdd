import { and, desc, eq, isNotNull, isNull, lt } from 'drizzle-orm'
import { v7 } from 'uuid'
import type { z } from 'zod'
import type { LevelPatch, LevelSummary, ListedLevel, newLevelSchema } from '../../core/api/schema'
import { asName } from '../../core/units/text'
import type { Beginning } from '../../core/api/starting-points'
import { isBeginning } from '../../core/api/starting-points'
import { lanternQuay } from '../../demo/lantern-quay'
import { MADE } from '../../demo/starting-points'
import type { Database, Transaction } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { changes, levels, milestones } from '../db/schema'
import { ApiError } from '../utils/api-error'
import type { Doer } from './accounts'
import { note } from './accounts'
import type { LevelContent } from './level-content'
import { duplicateContent, insertLevel } from './level-content'
import { contentToBeginWith, milestoneWithin } from './milestones'
import { addMissingParts, demoPicture } from './seed'

/** A deleted level can be brought back for this long. */
const KEPT_DAYS = 30

export const summaryColumns = {
  id: levels.id,
  name: levels.name,
  revision: levels.revision,
  placementCount: levels.placementCount,
  pictureType: levels.pictureType,
  pictureRevision: levels.pictureRevision,
  partId: levels.partId,
  variantOf: levels.variantOf,
  beganAt: levels.beganAt,
  tags: levels.tags,
  startingPoint: levels.startingPoint,
  createdAt: levels.createdAt,
  changedAt: levels.changedAt,
  archivedAt: levels.archivedAt,
}

type SummaryRow = Pick<typeof levels.$inferSelect, keyof typeof summaryColumns>

export function toSummary({ pictureType, createdAt, changedAt, archivedAt, ...row }: SummaryRow): LevelSummary {
  return {
    ...row,
    hasPicture: pictureType !== null,
    createdAt: createdAt.toISOString(),
    changedAt: changedAt.toISOString(),
    archivedAt: archivedAt?.toISOString() ?? null,
  }
}

/** All levels but workshops, the last changed first, with who has changed each last. */
export async function listLevels(db: Database): Promise<Omit<ListedLevel, 'here'>[]> {
  const rows = await db
    .select({ ...summaryColumns, lastBy: changes.author })
    .from(levels)
    .leftJoin(changes, and(eq(changes.levelId, levels.id), eq(changes.revision, levels.revision)))
    .where(and(isNull(levels.deletedAt), isNull(levels.partId)))
    .orderBy(desc(levels.changedAt))
  return rows.map(({ lastBy, ...row }) => ({ ...toSummary(row), lastBy }))
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

type Given = z.output<typeof newLevelSchema>

/**
 * Starts a level: empty, from the demo, as a duplicate, or as a variant, which begins at a milestone.
 *
 * @param by who starts it, if that is proven
 * @throws ApiError 404 if there is nothing to begin with
 */
export async function createLevel(
  db: Database,
  by: Doer,
  { name, from, at, variant, author }: Given,
): Promise<LevelSummary> {
  const id = v7()
  const began = at === undefined ? null : await contentToBeginWith(db, at, from)
  return inTransaction(
    db,
    async tx => {
      if (isBeginning(from)) await beginFrom(tx, id, name, from)
      else if (began) await beginAt(tx, at!, id, name, began)
      else await duplicateLevel(tx, from, id, name)
      if (variant) {
        const beganAt =
          at
          ?? (
            await milestoneWithin(tx, by, from, {
              id: v7(),
              name: asName(`Where “${name}” began`),
              about: '',
              by: author,
            })
          ).id
        await tx.update(levels).set({ variantOf: from, beganAt }).where(eq(levels.id, id))
      }
      return needLevel(tx, id)
    },
    ONE_MOMENT,
  )
}

/** Puts what is made in code into a new level. */
async function beginFrom(tx: Transaction, id: string, name: string, from: Beginning): Promise<void> {
  if (from === 'empty') return insertLevel(tx, id, name, { placements: [] })
  const content = from === 'demo' ? lanternQuay() : MADE[from]()
  await addMissingParts(tx, content.placements)
  await insertLevel(tx, id, name, content, from === 'demo' ? await demoPicture() : undefined)
}

/** The same in a process of its own, for what takes reading all of a milestone. */
export const createLevelJob = (db: Database, { given, by }: { given: Given; by: Doer }): Promise<LevelSummary> =>
  createLevel(db, by, given)

/** Puts what was in a level at a milestone into a new one, with the milestone's picture. @throws ApiError 404 */
async function beginAt(
  tx: Transaction,
  milestoneId: string,
  id: string,
  name: string,
  content: LevelContent,
): Promise<void> {
  const { picture, pictureType } = milestones
  const [row] = await tx.select({ picture, pictureType }).from(milestones).where(eq(milestones.id, milestoneId))
  if (!row) throw ApiError.notFound('milestone')
  await insertLevel(tx, id, name, content)
  await tx.update(levels).set(row).where(eq(levels.id, id))
}

async function duplicateLevel(tx: Transaction, sourceId: string, id: string, name: string): Promise<void> {
  const [source] = await tx
    .select()
    .from(levels)
    .where(and(eq(levels.id, sourceId), isNull(levels.deletedAt)))
  if (!source) throw ApiError.notFound('level to duplicate')
  const { placementCount, picture, pictureType, kept, tags } = source
  await tx.insert(levels).values({ id, name, placementCount, picture, pictureType, kept, tags })
  await duplicateContent(tx, sourceId, id)
}

/** Renames a level, tags it, puts it away, or brings it back after it was deleted. @throws ApiError 404 */
export async function patchLevel(
  db: Database,
  by: Doer,
  id: string,
  { name, tags, startingPoint, archived, deleted }: LevelPatch,
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
    const archivedAt = archived === undefined ? undefined : archived ? new Date() : null
    const fields = { name, tags, startingPoint, archivedAt }
    if (Object.values(fields).some(value => value !== undefined))
      await tx.update(levels).set(fields).where(eq(levels.id, id))
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
