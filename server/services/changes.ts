import { isDeepStrictEqual } from 'node:util'
import { and, asc, desc, eq, getTableColumns, gt, inArray, isNull, lt, lte, sql } from 'drizzle-orm'
import type { Role } from '../../core/api/roles'
import { mayDo } from '../../core/api/roles'
import { changesRequestSchema } from '../../core/api/schema'
import type { ChangesAnswer, ChangesRequest, HistoryEntry, HistoryQuery, Journal } from '../../core/api/schema'
import { applyChange, ChangeError, conflicts, footprintOf, recordIn, recordsNeeded } from '../../core/level/change'
import { MOST_REVISION } from '../../core/formats/level-file'
import { Level } from '../../core/level/level'
import type { Change, JournalEntry, Operation, Placement, RecordName } from '../../core/level/schema'
import { RECORD_NAMES } from '../../core/level/schema'
import { holdersOf } from '../../core/relate/graph'
import { putRows } from '../db/bulk'
import type { Database, Transaction } from '../db/client'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { placementToRow, rowToJournalEntry, rowToPlacement } from '../db/rows'
import { changes, levels, parts, placements, relations } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { parseJson } from '../utils/body'
import type { Doer } from './accounts'
import { asMadeBy, demandNotesAlone } from './notes'
import { announce } from './live/announce'
import { automaticColumns, markBefore } from './automatic-milestones'
import { refuseBadRelations } from './relations'
import { loadSmall, relationsOf, slices, SMALL_TABLES } from './small-tables'
import { refuseNesting } from './workshop'

/** Bytes of others' changes beyond which answering is work for another process. */
export const LITTLE = 256 * 1024

/** Who makes changes: who that is, if it is proven, and what they may do in the level. */
export type Maker = { person: Doer; role: Role }
const ANYBODY: Maker = { person: null, role: 'work' }

/** More would have to be answered than where little is done. Nothing was changed. */
export class TooMuchHere extends Error {}

/**
 * Applies changes to a level in one transaction: all of them or none.
 *
 * A change whose id is in the journal already is answered with its place there and not applied again. What others did
 * since `baseRevision` is merged with if it touches other records.
 *
 * @param by who makes them, whatever a change says of its author, and what they may
 * @param most bytes of others' changes that are worked with here
 * @throws ApiError 403 for more than they may, 404 for an unknown level, 409 with what others did if it cannot be kept
 *   beside these changes, or if a change was sent before with other content, 422 with the field for a change that
 *   cannot be applied; TooMuchHere
 */
export async function saveChanges(
  db: Database,
  levelId: string,
  request: ChangesRequest,
  by: Maker = ANYBODY,
  most = Infinity,
): Promise<ChangesAnswer> {
  return inTransaction(db, tx => saveWithin(tx, levelId, request, by, most))
}

/** The same as a part of something larger, which is kept or not as a whole. */
export async function saveWithin(
  tx: Transaction,
  levelId: string,
  { baseRevision, changes: given }: ChangesRequest,
  by: Maker = ANYBODY,
  most = Infinity,
): Promise<ChangesAnswer> {
  const sent = asMadeBy(by.person, given)
  const [level] = await tx
    .select(automaticColumns)
    .from(levels)
    .where(and(eq(levels.id, levelId), isNull(levels.deletedAt)))
    .for('update')
  if (!level) throw ApiError.notFound('level')
  if (baseRevision > level.revision) {
    throw new ApiError(422, 'invalid', 'baseRevision: the level is not that far yet.', { field: 'baseRevision' })
  }
  if (baseRevision < level.revision && most < Infinity && (await journalBytes(tx, levelId, baseRevision)) > most)
    throw new TooMuchHere()
  const done = await findInJournal(tx, levelId, sent, by.person)
  const fresh = firstOfEach(sent).filter(change => !done.has(change.id))
  const sentIds = new Set(sent.map(({ id }) => id))
  const others =
    baseRevision < level.revision
      ? (await journalSince(tx, levelId, baseRevision)).filter(({ id }) => !sentIds.has(id))
      : []
  const theirs = footprintOf(others)
  const yours = fresh.filter(mine => conflicts(theirs, footprintOf([mine]))).map(({ id }) => id)
  if (yours.length > 0) {
    throw new ApiError(409, 'conflict', 'Someone else changed the same placements.', {
      field: 'changes',
      conflict: {
        revision: level.revision,
        yours,
        applied: sent.flatMap(({ id }) => (done.has(id) ? [{ id, revision: done.get(id)! }] : [])),
        others,
      },
    })
  }
  let revision = level.revision
  if (fresh.length > 0) {
    const places = new Map(sent.map(({ id }, place) => [id, place]))
    const { grown, inverses } = await applyToRows(tx, levelId, fresh, ({ id }) => places.get(id)!, by)
    const rows = fresh.map((change, i) => {
      done.set(change.id, ++revision)
      return { levelId, ...change, personId: by.person?.id ?? null, inverse: inverses[i], revision }
    })
    for (const some of slices(rows)) await tx.insert(changes).values(some)
    await markBefore(tx, levelId, level, fresh)
    await tx
      .update(levels)
      .set({ revision, placementCount: sql`${levels.placementCount} + ${grown}`, changedAt: new Date() })
      .where(eq(levels.id, levelId))
    await announce(tx, { level: levelId, revision })
  }
  return { revision, applied: sent.map(({ id }) => ({ id, revision: done.get(id)! })), others }
}

/** The same in another process, from the bytes of the request to those of the answer. */
export async function saveChangesJob(
  db: Database,
  { levelId, body, by }: { levelId: string; body: Uint8Array; by: Maker },
): Promise<Uint8Array> {
  return Buffer.from(JSON.stringify(await saveChanges(db, levelId, parseJson(body, changesRequestSchema), by)))
}

/** How far a level is. @throws ApiError 404 */
export async function revisionOf(tx: Transaction, levelId: string): Promise<number> {
  const [level] = await tx
    .select({ revision: levels.revision })
    .from(levels)
    .where(and(eq(levels.id, levelId), isNull(levels.deletedAt)))
  if (!level) throw ApiError.notFound('level')
  return level.revision
}

/** Bytes of the journal that are told at once, beyond which the rest is left for the next time. */
const MOST_TOLD = 4 * 1024 * 1024
/** Entries of it. */
const MOST_ENTRIES = 1000

/**
 * What was done to a level after a revision: as much as is told at once.
 *
 * @param most bytes that are worked with here
 * @throws ApiError 404, 422 if the level is not that far yet; TooMuchHere
 */
export async function readJournal(db: Database, levelId: string, after: number, most = Infinity): Promise<Journal> {
  return inTransaction(
    db,
    async tx => {
      const now = await revisionOf(tx, levelId)
      if (after > now) throw new ApiError(422, 'invalid', 'after: the level is not that far yet.', { field: 'after' })
      const sizes = await tx
        .select({ revision: changes.revision, bytes: sql<number>`pg_column_size(${changes.operations})` })
        .from(changes)
        .where(and(eq(changes.levelId, levelId), gt(changes.revision, after)))
        .orderBy(asc(changes.revision))
        .limit(MOST_ENTRIES)
      let [upTo, bytes] = [after, 0]
      for (const { revision, bytes: own } of sizes) {
        if (upTo > after && bytes + own > MOST_TOLD) break
        upTo = revision
        bytes += own
      }
      if (bytes > most) throw new TooMuchHere()
      return { revision: now, entries: upTo > after ? await journalBetween(tx, levelId, after, upTo) : [] }
    },
    { ...ONE_MOMENT, accessMode: 'read only' },
  )
}

/** The same in another process, to the bytes of the answer. */
export async function readJournalJob(
  db: Database,
  { levelId, after }: { levelId: string; after: number },
): Promise<Uint8Array> {
  return Buffer.from(JSON.stringify(await readJournal(db, levelId, after)))
}

/** The last changes of a level, without what they did. @throws ApiError 404 */
export async function listHistory(
  db: Database,
  levelId: string,
  { before, limit }: HistoryQuery,
): Promise<HistoryEntry[]> {
  const rows = await db
    .select({
      id: changes.id,
      label: changes.label,
      author: changes.author,
      revision: changes.revision,
      madeAt: changes.madeAt,
      proven: sql<boolean>`${changes.personId} is not null`,
      canBeTakenBack: sql<boolean>`${changes.inverse} is not null`,
    })
    .from(changes)
    .where(and(eq(changes.levelId, levelId), before === undefined ? undefined : lt(changes.revision, before)))
    .orderBy(desc(changes.revision))
    .limit(limit)
  return rows.map(row => ({ ...row, madeAt: row.madeAt.toISOString() }))
}

/** An operation without when something was written and by whom: that is the server's to say, once. */
function timeless(operation: Operation): Operation {
  if (operation.do !== 'put-thread' && operation.do !== 'put-answer') return operation
  const { when: _when, by: _by, ...fields } = operation.fields as Record<string, unknown>
  return { ...operation, fields } as Operation
}

/** The places of changes that were sent before. @throws ApiError 409 if one was sent with other content then */
async function findInJournal(tx: Transaction, levelId: string, sent: Change[], by: Doer): Promise<Map<string, number>> {
  const rows = await tx
    .select()
    .from(changes)
    .where(
      and(
        eq(changes.levelId, levelId),
        inArray(
          changes.id,
          sent.map(change => change.id),
        ),
      ),
    )
  const known = new Map(rows.map(row => [row.id, row]))
  sent.forEach(({ id, label, author, operations }, i) => {
    const row = known.get(id)
    // Somebody may be called otherwise by now.
    const isTheirs = row !== undefined && row.personId !== null && row.personId === by?.id
    // As it comes out of the database: without -0 and what is undefined. What was said then, was said then.
    if (
      row
      && !isDeepStrictEqual(
        { label: row.label, author: isTheirs ? author : row.author, operations: row.operations.map(timeless) },
        JSON.parse(JSON.stringify({ label, author, operations: operations.map(timeless) })),
      )
    ) {
      throw new ApiError(409, 'id-taken', `changes.${i}.id: another change has this id already.`, {
        field: `changes.${i}.id`,
      })
    }
  })
  return new Map(rows.map(row => [row.id, row.revision]))
}

function firstOfEach(sent: Change[]): Change[] {
  return [...new Map(sent.toReversed().map(change => [change.id, change])).values()].toReversed()
}

async function journalBytes(tx: Transaction, levelId: string, revision: number): Promise<number> {
  const [sum] = await tx
    .select({ bytes: sql<string>`coalesce(sum(pg_column_size(${changes.operations})), 0)` })
    .from(changes)
    .where(and(eq(changes.levelId, levelId), gt(changes.revision, revision)))
  return Number(sum!.bytes)
}

const journalSince = (tx: Transaction, levelId: string, revision: number) =>
  journalBetween(tx, levelId, revision, MOST_REVISION)

/** The entries after a revision up to another. */
async function journalBetween(tx: Transaction, levelId: string, after: number, to: number): Promise<JournalEntry[]> {
  const { inverse: _inverse, personId: _personId, ...columns } = getTableColumns(changes)
  const rows = await tx
    .select(columns)
    .from(changes)
    .where(and(eq(changes.levelId, levelId), gt(changes.revision, after), lte(changes.revision, to)))
    .orderBy(asc(changes.revision))
  return rows.map(rowToJournalEntry)
}

/**
 * Applies changes to the placements' rows; returns by how many placements the level grew, and what takes each change
 * back. Only the records concerned and what they hang from are loaded; the core's own `applyChange` then does the work.
 */
async function applyToRows(
  tx: Transaction,
  levelId: string,
  fresh: Change[],
  numberOf: (change: Change) => number,
  { person, role }: Maker,
): Promise<{ grown: number; inverses: Operation[][] }> {
  const touched = touchedBy(fresh)
  const needed = new Set<string>()
  for (const { operations } of fresh) for (const id of recordsNeeded(operations)) needed.add(id)
  const known = await loadWithAncestors(tx, levelId, new Set([...touched.placements, ...needed]))
  const level = new Level(known, await loadSmall(tx, levelId, record => [...new Set([...touched[record], ...needed])]))
  const put = partsPut(fresh)
  await refuseNesting(tx, levelId, put)
  const hasPart = await partsAmong(tx, put)
  const before = [...touched.placements].filter(id => level.has(id))
  const inverses = fresh.map(change => {
    if (!mayDo(role, 'work')) demandNotesAlone(level, change, person)
    try {
      return applyChange(level, change.operations, hasPart).inverse
    } catch (error) {
      throw asApiError(error, `changes.${numberOf(change)}`)
    }
  })
  const removed = before.filter(id => !level.has(id))
  const written = [...touched.placements].filter(id => level.has(id))
  for (const table of SMALL_TABLES)
    await table.write(
      tx,
      levelId,
      level,
      [...touched[table.record]].filter(id => table.of(level).has(id)),
    )
  await putRows(
    tx,
    placements,
    written.map(id => placementToRow(levelId, level.need(id))),
  )
  await removeRows(tx, levelId, removed)
  await refuseOrphans(tx, levelId, removed)
  await removeFromTables(tx, levelId, level, touched)
  await checkRelations(tx, levelId, fresh)
  // What hangs from what is looked at here, where a statement has its deadline: at the commit nothing would end it.
  await tx.execute(sql`set constraints all immediate`)
  await tx.execute(sql`set constraints all deferred`)
  return { grown: written.length - before.length, inverses }
}

/** Where relations or what hangs from what were written, all relations are looked at, as they are now. */
async function checkRelations(tx: Transaction, levelId: string, fresh: readonly Change[]): Promise<void> {
  const isAbout = fresh.some(({ operations }) =>
    operations.some(
      operation => operation.do === 'put-relation' || (operation.do === 'put' && Boolean(operation.fields.parentId)),
    ),
  )
  if (!isAbout) return
  const [any] = await tx.select({ id: relations.id }).from(relations).where(eq(relations.levelId, levelId)).limit(1)
  if (!any) return
  const all = await relationsOf(tx, levelId)
  const ids = new Set(all.flatMap(relation => [relation.held, ...holdersOf(relation)]))
  refuseBadRelations(new Level(await loadWithAncestors(tx, levelId, ids), { relations: all }), fresh)
}

/** Ids by kind of record. */
type Touched = { placements: Set<string> } & Record<RecordName, Set<string>>

function touchedBy(fresh: Change[]): Touched {
  const touched = {
    placements: new Set(),
    ...Object.fromEntries(RECORD_NAMES.map(record => [record, new Set()])),
  } as Touched
  for (const { operations } of fresh) {
    for (const operation of operations) {
      touched[recordIn(operation) ?? 'placements'].add(operation.id)
    }
  }
  return touched
}

async function removeFromTables(tx: Transaction, levelId: string, level: Level, touched: Touched): Promise<void> {
  for (const table of SMALL_TABLES) {
    const gone = [...touched[table.record]].filter(id => !table.of(level).has(id))
    for (const some of table.usedBy ? slices(gone) : []) {
      const [user] = await tx
        .select({ name: placements.name })
        .from(placements)
        .where(and(eq(placements.levelId, levelId), inArray(table.usedBy!, some)))
        .limit(1)
      if (user)
        throw new ApiError(422, 'in-use', `changes: "${user.name}" still needs a ${table.record} to be removed.`, {
          field: 'changes',
        })
    }
    await table.remove(tx, levelId, gone)
  }
}

/**
 * The placements of these ids and all they hang from, in one question however deep that is. Each row is looked up by
 * its key (`limit 1` sees to that): left to itself, the database chose by counts from before a large change, and went
 * over the whole level for every id.
 */
export async function loadWithAncestors(tx: Transaction, levelId: string, ids: Set<string>): Promise<Placement[]> {
  if (ids.size === 0) return []
  const { id, levelId: level } = placements
  const wanted = sql`with recursive upwards(id) as (
      select unnest(${sql.param([...ids])}::uuid[])
      union select above.parent_id from upwards cross join lateral (
        select parent_id from ${placements} where level_id = ${levelId} and id = upwards.id limit 1
      ) above where above.parent_id is not null
    ) select id from upwards`
  const known = tx
    .select()
    .from(placements)
    .where(and(eq(level, levelId), eq(id, sql`upwards.id`)))
    .limit(1)
    .as('placements')
  const rows = await tx
    .select(getTableColumns(placements))
    .from(sql`(${wanted}) upwards`)
    .innerJoinLateral(known, sql`true`)
  return rows.map(rowToPlacement)
}

function partsPut(fresh: readonly Change[]): string[] {
  return [
    ...new Set(
      fresh.flatMap(({ operations }) =>
        operations.flatMap(operation => (operation.do === 'put' && operation.fields.partId) || []),
      ),
    ),
  ]
}

/** Tells which of the parts that are put are there. */
async function partsAmong(tx: Transaction, put: readonly string[]): Promise<(id: string) => boolean> {
  const found = new Set<string>()
  for (const some of slices(put)) {
    // Held until the placements are written, so that nobody deletes them in between.
    for (const { id } of await tx.select({ id: parts.id }).from(parts).where(inArray(parts.id, some)).for('key share'))
      found.add(id)
  }
  const asked = new Set(put)
  return id => found.has(id) || !asked.has(id)
}

/** Each by its key, as they are loaded. */
async function removeRows(tx: Transaction, levelId: string, ids: readonly string[]): Promise<void> {
  if (ids.length === 0) return
  await tx.delete(placements).where(
    sql`ctid = any(array(
      select gone.ctid from unnest(${sql.param(ids)}::uuid[]) asked(id) cross join lateral (
        select ctid from ${placements} where level_id = ${levelId} and id = asked.id limit 1
      ) gone))`,
  )
}

/** What still hangs from a removed record was not part of the change and would be left in the air. */
async function refuseOrphans(tx: Transaction, levelId: string, removed: readonly string[]): Promise<void> {
  if (removed.length === 0) return
  const { name, levelId: level, parentId } = placements
  const [orphan] = await tx
    .select({ name })
    .from(sql`unnest(${sql.param(removed)}::uuid[]) gone(id)`)
    .innerJoinLateral(
      tx
        .select({ name })
        .from(placements)
        .where(and(eq(level, levelId), eq(parentId, sql`gone.id`)))
        .limit(1)
        .as('placements'),
      sql`true`,
    )
    .limit(1)
  if (orphan) {
    throw new ApiError(
      422,
      'has-children',
      `changes: "${orphan.name}" hangs below a placement to be removed; remove or move it as well.`,
      { field: 'changes' },
    )
  }
}

function asApiError(error: unknown, prefix: string): unknown {
  if (!(error instanceof ChangeError)) return error
  const field = `${prefix}.${error.field}`
  return new ApiError(422, error.code, `${field}: ${error.message}`, { field })
}
