import { and, asc, eq, getTableColumns, gt, inArray, isNull, sql } from 'drizzle-orm'
import type { ChangesAnswer, ChangesRequest } from '../../core/api/schema'
import { applyChange, ChangeError, conflicts, recordsNeeded } from '../../core/level/change'
import { LevelDocument } from '../../core/level/document'
import type { Change, JournalEntry, Placement } from '../../core/level/schema'
import type { Database, Transaction } from '../db/client'
import { placementToRow, rowToJournalEntry, rowToPlacement } from '../db/rows'
import { changes, levels, parts, placements } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { ROWS_PER_STATEMENT } from './levels'
import type { SmallTable } from './small-tables'
import { SMALL_TABLES } from './small-tables'

/**
 * Applies changes to a level in one transaction: all of them or none.
 *
 * A change whose id is in the journal already is answered with its place there and not applied again. What others did since
 * `baseRevision` is merged with if it touches other records.
 *
 * @throws ApiError 404 for an unknown level, 409 with what others did if it cannot be kept beside these changes,
 * 422 with the field for a change that cannot be applied
 */
export async function saveChanges(db: Database, levelId: string, { baseRevision, changes: sent }: ChangesRequest): Promise<ChangesAnswer> {
  return db.transaction(async (tx) => {
    const [level] = await tx.select({ revision: levels.revision }).from(levels)
      .where(and(eq(levels.id, levelId), isNull(levels.deletedAt))).for('update')
    if (!level) throw ApiError.notFound('level')
    if (baseRevision > level.revision) {
      throw new ApiError(422, 'invalid', 'baseRevision: the level is not that far yet.', { field: 'baseRevision' })
    }
    const done = await findInJournal(tx, levelId, sent)
    const fresh = firstOfEach(sent).filter(change => !done.has(change.id))
    const others = (await journalSince(tx, levelId, baseRevision)).filter(entry => !sent.some(change => change.id === entry.id))
    const yours = fresh.filter(mine => others.some(theirs => conflicts(theirs, mine))).map(change => change.id)
    if (yours.length > 0) {
      throw new ApiError(409, 'conflict', 'Someone else changed the same placements.', { field: 'changes', conflict: { revision: level.revision, yours, others } })
    }
    let revision = level.revision
    if (fresh.length > 0) {
      const grown = await applyToRows(tx, levelId, fresh, change => sent.indexOf(change))
      await tx.insert(changes).values(fresh.map((change) => {
        done.set(change.id, ++revision)
        return { levelId, ...change, revision }
      }))
      await tx.update(levels)
        .set({ revision, placementCount: sql`${levels.placementCount} + ${grown}`, changedAt: new Date() })
        .where(eq(levels.id, levelId))
    }
    return { revision, applied: sent.map(({ id }) => ({ id, revision: done.get(id)! })), others }
  })
}

async function findInJournal(tx: Transaction, levelId: string, sent: Change[]): Promise<Map<string, number>> {
  const rows = await tx.select({ id: changes.id, revision: changes.revision }).from(changes)
    .where(and(eq(changes.levelId, levelId), inArray(changes.id, sent.map(change => change.id))))
  return new Map(rows.map(row => [row.id, row.revision]))
}

function firstOfEach(sent: Change[]): Change[] {
  return [...new Map(sent.toReversed().map(change => [change.id, change])).values()].toReversed()
}

async function journalSince(tx: Transaction, levelId: string, revision: number): Promise<JournalEntry[]> {
  const rows = await tx.select().from(changes)
    .where(and(eq(changes.levelId, levelId), gt(changes.revision, revision))).orderBy(asc(changes.revision))
  return rows.map(rowToJournalEntry)
}

/**
 * Applies changes to the placements' rows; returns by how many placements the level grew.
 * Only the records concerned and what they hang from are loaded; the core's own `applyChange` then does the work.
 */
async function applyToRows(tx: Transaction, levelId: string, fresh: Change[], indexOf: (change: Change) => number): Promise<number> {
  const touched = touchedBy(fresh)
  const needed = fresh.flatMap(change => [...recordsNeeded(change.operations)])
  const document = await loadWithAncestors(tx, levelId, new Set([...touched.placements, ...needed]))
  // They are few; all of them are loaded if the change has to do with any.
  if (needed.length + SMALL_TABLES.reduce((sum, { record }) => sum + touched[record].size, 0) > 0) {
    for (const table of SMALL_TABLES) await table.load(tx, levelId, document)
  }
  const hasPart = await partsAmong(tx, fresh)
  const before = [...touched.placements].filter(id => document.has(id))
  for (const change of fresh) {
    try {
      applyChange(document, change.operations, hasPart)
    }
    catch (error) {
      throw asApiError(error, `changes.${indexOf(change)}`)
    }
  }
  const removed = before.filter(id => !document.has(id))
  const written = [...touched.placements].filter(id => document.has(id))
  await writeTables(tx, levelId, document, touched)
  await writeRows(tx, levelId, written.map(id => document.need(id)))
  for (const slice of slices(removed)) {
    await tx.delete(placements).where(and(eq(placements.levelId, levelId), inArray(placements.id, slice)))
  }
  await refuseOrphans(tx, levelId, removed)
  await removeFromTables(tx, levelId, document, touched)
  return written.length - before.length
}

/** Ids by kind of record. */
type Touched = { placements: Set<string> } & Record<SmallTable['record'], Set<string>>

function touchedBy(fresh: Change[]): Touched {
  const touched: Touched = { placements: new Set(), layer: new Set(), station: new Set(), block: new Set() }
  for (const operation of fresh.flatMap(change => change.operations)) {
    const table = SMALL_TABLES.find(({ record }) => operation.do.endsWith(`-${record}`))
    touched[table?.record ?? 'placements'].add(operation.id)
  }
  return touched
}

async function writeTables(tx: Transaction, levelId: string, document: LevelDocument, touched: Touched): Promise<void> {
  for (const table of SMALL_TABLES) await table.write(tx, levelId, document, [...touched[table.record]].filter(id => table.of(document).has(id)))
}

async function removeFromTables(tx: Transaction, levelId: string, document: LevelDocument, touched: Touched): Promise<void> {
  for (const table of SMALL_TABLES) {
    const gone = [...touched[table.record]].filter(id => !table.of(document).has(id))
    if (gone.length === 0) continue
    if (table.usedBy) {
      const [user] = await tx.select({ name: placements.name }).from(placements).where(and(eq(placements.levelId, levelId), inArray(table.usedBy, gone))).limit(1)
      if (user) throw new ApiError(422, 'in-use', `"${user.name}" still needs a ${table.record} to be removed.`, { field: 'changes' })
    }
    await table.remove(tx, levelId, gone)
  }
}

async function loadWithAncestors(tx: Transaction, levelId: string, ids: Set<string>): Promise<LevelDocument> {
  const loaded: Placement[] = []
  let wanted = [...ids]
  const asked = new Set<string>()
  while (wanted.length > 0) {
    const above = new Set<string>()
    for (const slice of slices(wanted)) {
      for (const id of slice) asked.add(id)
      const rows = await tx.select().from(placements).where(and(eq(placements.levelId, levelId), inArray(placements.id, slice)))
      for (const row of rows) {
        loaded.push(rowToPlacement(row))
        if (row.parentId !== null) above.add(row.parentId)
      }
    }
    wanted = [...above].filter(id => !asked.has(id))
  }
  return new LevelDocument(loaded)
}

async function partsAmong(tx: Transaction, fresh: Change[]): Promise<(id: string) => boolean> {
  const asked = new Set<string>()
  for (const operation of fresh.flatMap(change => change.operations)) {
    if (operation.do === 'put' && operation.fields.partId) asked.add(operation.fields.partId)
  }
  if (asked.size === 0) return () => true
  const rows = await tx.select({ id: parts.id }).from(parts).where(inArray(parts.id, [...asked]))
  const found = new Set(rows.map(row => row.id))
  return id => found.has(id) || !asked.has(id)
}

/** What still hangs from a removed record was not part of the change and would be left in the air. */
async function refuseOrphans(tx: Transaction, levelId: string, removed: string[]): Promise<void> {
  for (const slice of slices(removed)) {
    const [orphan] = await tx.select({ name: placements.name }).from(placements)
      .where(and(eq(placements.levelId, levelId), inArray(placements.parentId, slice))).limit(1)
    if (orphan) {
      throw new ApiError(422, 'has-children', `"${orphan.name}" hangs below a placement to be removed; remove or move it as well.`, { field: 'changes' })
    }
  }
}

const { levelId: _levelId, id: _id, ...updatable } = getTableColumns(placements)
const fromExcluded = Object.fromEntries(Object.entries(updatable).map(([key, column]) => [key, sql.raw(`excluded."${column.name}"`)]))

async function writeRows(tx: Transaction, levelId: string, records: Parameters<typeof placementToRow>[1][]): Promise<void> {
  for (const slice of slices(records)) {
    await tx.insert(placements).values(slice.map(record => placementToRow(levelId, record)))
      .onConflictDoUpdate({ target: [placements.levelId, placements.id], set: fromExcluded })
  }
}

function asApiError(error: unknown, prefix: string): unknown {
  if (!(error instanceof ChangeError)) return error
  return new ApiError(422, error.code, error.message, { field: `${prefix}.${error.field}` })
}

function* slices<T>(items: readonly T[]): Generator<T[]> {
  for (let i = 0; i < items.length; i += ROWS_PER_STATEMENT) yield items.slice(i, i + ROWS_PER_STATEMENT)
}
