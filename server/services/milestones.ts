import { promisify } from 'node:util'
import { gunzip, gzip } from 'node:zlib'
import { and, desc, eq, getTableColumns, inArray, isNotNull, isNull, lt, notExists, sql } from 'drizzle-orm'
import type { Milestone, MilestonePatch, newMilestoneSchema } from '../../core/api/milestones'
import { beyondKeeping } from '../../core/api/milestones'
import { applyChange, isRecordThere } from '../../core/level/change'
import { Level, recordsOf } from '../../core/level/level'
import { packLevel } from '../../core/level/pack'
import { asGroup } from '../../core/level/read'
import { unpackLevel } from '../../core/level/unpack'
import type { Picture } from '../../core/mesh/texture'
import type { z } from 'zod'
import type { Database, Transaction } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { levels, milestones, parts } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { needPicture } from '../utils/picture'
import type { Doer } from './accounts'
import { isAutomatic } from './automatic-milestones'
import { revisionOf } from './changes'
import { backWithin } from './go-back'
import type { LevelContent } from './level-content'
import { readContent } from './level-content'
import { pictureAt } from './picture-at'
import { slices } from './small-tables'

/** Milestones that one level has at the most, with those made by themselves. */
const MOST = 1000
/** A deleted one can be brought back for this long. */
const KEPT_DAYS = 30
const DAY = 86_400_000

const { content: _content, picture: _picture, deletedAt: _deletedAt, ...columns } = getTableColumns(milestones)
type Row = Pick<typeof milestones.$inferSelect, keyof typeof columns>

function toMilestone({ personId, pictureType, madeAt, ...row }: Row): Milestone {
  return { ...row, proven: personId !== null, hasPicture: pictureType !== null, madeAt: madeAt.toISOString() }
}

/** The milestones of a level, the last first. */
export async function listMilestones(db: Database, levelId: string): Promise<Milestone[]> {
  const rows = await db
    .select(columns)
    .from(milestones)
    .where(and(eq(milestones.levelId, levelId), isNull(milestones.deletedAt)))
    .orderBy(desc(milestones.revision), desc(milestones.madeAt))
  return rows.map(toMilestone)
}

/** @throws ApiError 404 */
export async function needMilestone(db: Database | Transaction, id: string): Promise<Milestone> {
  const [row] = await db
    .select(columns)
    .from(milestones)
    .where(and(eq(milestones.id, id), isNull(milestones.deletedAt)))
  if (!row) throw ApiError.notFound('milestone')
  return toMilestone(row)
}

/** The level of a milestone, deleted or not. @throws ApiError 404 */
export async function levelOfMilestone(db: Database, id: string): Promise<string> {
  const [row] = await db.select({ levelId: milestones.levelId }).from(milestones).where(eq(milestones.id, id))
  if (!row) throw ApiError.notFound('milestone')
  return row.levelId
}

/**
 * Names a state of a level: as it is, or as it was after an earlier change. Asked for again with the same id it is
 * answered as it was made.
 *
 * @throws ApiError 404; 409 for an id that another has, or too many; 422 for a state that is not known (any more)
 */
export async function makeMilestone(
  db: Database,
  by: Doer,
  levelId: string,
  given: z.output<typeof newMilestoneSchema>,
): Promise<Milestone> {
  return inTransaction(db, tx => milestoneWithin(tx, by, levelId, given))
}

/** The same as a part of something larger. */
export async function milestoneWithin(
  tx: Transaction,
  by: Doer,
  levelId: string,
  { id, name, about, revision: wanted, by: called }: z.output<typeof newMilestoneSchema>,
): Promise<Milestone> {
  // As long as this is not over nobody changes the level.
  const [level] = await tx
    .select({ id: levels.id })
    .from(levels)
    .where(and(eq(levels.id, levelId), isNull(levels.deletedAt)))
    .for('no key update')
  if (!level) throw ApiError.notFound('level')
  const [known] = await tx.select(columns).from(milestones).where(eq(milestones.id, id))
  if (known) {
    if (known.levelId === levelId && known.name === name) return toMilestone(known)
    throw new ApiError(409, 'id-taken', 'id: another milestone has this id already.', { field: 'id' })
  }
  const all = await tx.$count(milestones, eq(milestones.levelId, levelId))
  if (all >= MOST)
    throw new ApiError(409, 'too-many', `A level can have ${MOST} milestones. Delete some that nobody needs.`)
  const now = await revisionOf(tx, levelId)
  const revision = wanted ?? now
  if (revision > now)
    throw new ApiError(422, 'invalid', 'revision: the level is not that far yet.', { field: 'revision' })
  // What cannot be gone back to is not promised.
  if (revision < now) await backWithin(tx, levelId, revision)
  await tx.insert(milestones).values({
    id,
    levelId,
    revision,
    name,
    about,
    made: 'by hand',
    by: by?.name ?? called,
    personId: by?.id ?? null,
    ...(await pictureAt(tx, levelId, revision)),
  })
  return needMilestone(tx, id)
}

/** Names a milestone otherwise, or brings it back after it was deleted. @throws ApiError 404 */
export async function patchMilestone(
  db: Database,
  id: string,
  { name, about, deleted }: MilestonePatch,
): Promise<Milestone> {
  return inTransaction(db, async tx => {
    if (deleted === false) await tx.update(milestones).set({ deletedAt: null }).where(eq(milestones.id, id))
    await needMilestone(tx, id)
    if (name !== undefined || about !== undefined)
      await tx.update(milestones).set({ name, about }).where(eq(milestones.id, id))
    return needMilestone(tx, id)
  })
}

/** It can be brought back for some weeks. @throws ApiError 404 */
export async function deleteMilestone(db: Database, id: string): Promise<void> {
  await needMilestone(db, id)
  await db.update(milestones).set({ deletedAt: new Date() }).where(eq(milestones.id, id))
}

/** @throws ApiError 404 if there is none */
export async function milestonePicture(db: Database, id: string): Promise<Picture> {
  const [row] = await db
    .select({ bytes: milestones.picture, type: milestones.pictureType })
    .from(milestones)
    .where(and(eq(milestones.id, id), isNull(milestones.deletedAt)))
  if (!row?.bytes || !row.type) throw ApiError.notFound('picture')
  return { bytes: row.bytes, type: row.type }
}

/** @throws ApiError 404, 415 if the bytes are no picture taken here */
export async function putMilestonePicture(db: Database, id: string, bytes: Uint8Array): Promise<void> {
  await needMilestone(db, id)
  const pictureType = await needPicture(bytes)
  await db.update(milestones).set({ picture: bytes, pictureType }).where(eq(milestones.id, id))
}

/** A level as it was after a change, by what it is now and what takes it back. @throws ApiError 404, 422 */
async function levelAt(tx: Transaction, levelId: string, revision: number): Promise<Level> {
  const { placements, ...records } = await readContent(tx, levelId)
  const level = new Level(placements, records)
  const { operations } = await backWithin(tx, levelId, revision)
  applyChange(
    level,
    operations.filter(operation => 'fields' in operation || isRecordThere(level, operation)),
  )
  return level
}

/**
 * Writes down what a level was like at a milestone, if that was not done yet. For a process of its own.
 *
 * @returns the level, as `core/level/packed` has it, compressed by gzip
 * @throws ApiError 404, 422 if it is not known any more
 */
export async function keepMilestoneJob(db: Database, { id }: { id: string }): Promise<Uint8Array> {
  const kept = await contentOf(db, id)
  if (kept) return kept
  const { levelId, revision } = await needMilestone(db, id)
  const level = await inTransaction(db, tx => levelAt(tx, levelId, revision), {
    ...ONE_MOMENT,
    accessMode: 'read only',
  })
  const items = [...packLevel({}, { placements: [...level.placements()], records: recordsOf(level) })]
  const content = await promisify(gzip)(Buffer.concat(items))
  await db
    .update(milestones)
    .set({ content, placementCount: level.size })
    .where(and(eq(milestones.id, id), isNull(milestones.content)))
  return content
}

/** What was written down; null if that was not done yet. @throws ApiError 404 */
export async function contentOf(db: Database | Transaction, id: string): Promise<Uint8Array | null> {
  const [row] = await db
    .select({ content: milestones.content })
    .from(milestones)
    .where(and(eq(milestones.id, id), isNull(milestones.deletedAt)))
  if (!row) throw ApiError.notFound('milestone')
  return row.content
}

/** What was in a level at a milestone, whatever became of its parts since. @throws ApiError 404 */
export async function contentAt(db: Database, id: string): Promise<LevelContent> {
  const packed = await keepMilestoneJob(db, { id })
  const { placements, records } = unpackLevel(new Uint8Array(await promisify(gunzip)(packed)))
  return { placements, ...records }
}

/**
 * The same, to be put into another level. Things whose part is gone are groups: their places, names and what hangs from
 * them are there.
 *
 * @throws ApiError 404, also if it is a milestone of another level
 */
export async function contentToBeginWith(db: Database, id: string, levelId: string): Promise<LevelContent> {
  const milestone = await needMilestone(db, id)
  if (milestone.levelId !== levelId) throw ApiError.notFound('milestone')
  const { placements, ...records } = await contentAt(db, id)
  const shown = [...new Set(placements.flatMap(({ partId }) => partId ?? []))]
  const known = new Set<string>()
  for (const some of slices(shown))
    for (const row of await db.select({ id: parts.id }).from(parts).where(inArray(parts.id, some))) known.add(row.id)
  return {
    placements: placements.map(each => (each.partId === null || known.has(each.partId) ? each : asGroup(each))),
    ...records,
  }
}

/** Those that were not written down yet, the oldest first. */
export async function pendingMilestones(db: Database, most: number): Promise<string[]> {
  const rows = await db
    .select({ id: milestones.id })
    .from(milestones)
    .where(and(isNull(milestones.content), isNull(milestones.deletedAt)))
    .orderBy(milestones.madeAt)
    .limit(most)
  return rows.map(({ id }) => id)
}

/**
 * Lets go of milestones that were made by themselves, the more of them the older they are, and of those that were
 * deleted long ago. Those at which variants begin stay.
 *
 * @returns how many
 */
export async function thinMilestones(db: Database, now = Date.now()): Promise<number> {
  const isBegun = db
    .select({ one: sql`1` })
    .from(levels)
    .where(eq(levels.beganAt, milestones.id))
  const old = await db
    .select({ id: milestones.id, levelId: milestones.levelId, madeAt: milestones.madeAt })
    .from(milestones)
    .where(and(isAutomatic, notExists(isBegun)))
    .orderBy(milestones.madeAt)
  const byLevel = new Map<string, typeof old>()
  for (const each of old) {
    const some = byLevel.get(each.levelId)
    if (some) some.push(each)
    else byLevel.set(each.levelId, [each])
  }
  const ids = [...byLevel.values()].flatMap(some =>
    beyondKeeping(
      some.map(({ id, madeAt }) => ({ id, at: madeAt.getTime() })),
      now,
    ),
  )
  for (const some of slices(ids)) await db.delete(milestones).where(inArray(milestones.id, some))
  const { rowCount } = await db
    .delete(milestones)
    .where(and(isNotNull(milestones.deletedAt), lt(milestones.deletedAt, new Date(now - KEPT_DAYS * DAY))))
  return ids.length + (rowCount ?? 0)
}
