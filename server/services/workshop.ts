import { and, asc, count, eq, isNotNull, isNull, sql } from 'drizzle-orm'
import { v7 } from 'uuid'
import { madePartSchema } from '../../core/api/schema'
import type { PartCopy, PartUses, Workshop } from '../../core/api/schema'
import { applyChange, ChangeError } from '../../core/level/change'
import { createPlacement } from '../../core/level/create'
import { Level, recordsOf } from '../../core/level/level'
import type { Lamp, Part } from '../../core/level/part'
import type { Operation } from '../../core/level/schema'
import type { Mesh } from '../../core/mesh/mesh'
import { levelLamps } from '../../core/scene/level-lamps'
import { levelMesh, LevelMeshError } from '../../core/scene/level-mesh'
import type { Database, Transaction } from '../db/client'
import { inTransaction } from '../db/client'
import { partToRow } from '../db/rows'
import { levels, parts, placements } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { parseJson } from '../utils/body'
import { addPart, copyOfPart, getPart, replaceMesh } from './kit'
import { duplicateContent, insertLevel } from './level-content'
import { readWholeLevel, TooLongToDeal } from './whole-level'

// A part's workshop is a level like any other, but in no list: what the part is made of lies in it, in the part's own
// axes. The part's mesh is made of it when somebody says that it is done.

/**
 * Adds a part made of things, with its workshop. Sending the same one again is answered as done. For a process of its
 * own.
 *
 * @throws ApiError 422 with the field if the things make no level, or no mesh
 */
export async function makePartJob(db: Database, { body }: { body: Uint8Array }): Promise<Part> {
  const { operations, ...part } = parseJson(body, madePartSchema)
  return inTransaction(db, async tx => {
    const [known] = await tx.select({ id: parts.id }).from(parts).where(eq(parts.id, part.id))
    if (known) return getPart(tx, part.id)
    const level = await contentOf(tx, operations)
    // The mesh comes last, but a workshop needs its part.
    const workshop = v7()
    await insertLevel(tx, workshop, part.name, { placements: [...level.placements()], ...recordsOf(level) })
    const { mesh, lamps } = await madeOf(tx, workshop)
    await addPart(tx, { ...part, lamps }, { mesh, pictures: new Map() }, 0)
    await tx.update(levels).set({ partId: part.id }).where(eq(levels.id, workshop))
    return getPart(tx, part.id)
  })
}

async function contentOf(tx: Transaction, operations: Operation[]): Promise<Level> {
  const asked = [...new Set(operations.flatMap(operation => (operation.do === 'put' && operation.fields.partId) || []))]
  const there = new Set<string>()
  for (const id of asked) {
    // Held until this is written, so that nobody deletes it in between.
    for (const row of await tx.select({ id: parts.id }).from(parts).where(eq(parts.id, id)).for('key share'))
      there.add(row.id)
  }
  const level = new Level()
  try {
    applyChange(level, operations, id => there.has(id))
  } catch (error) {
    if (!(error instanceof ChangeError)) throw error
    throw new ApiError(422, error.code, `${error.field}: ${error.message}`, { field: error.field })
  }
  return level
}

async function madeOf(tx: Transaction, workshop: string): Promise<{ mesh: Mesh; lamps: Lamp[] }> {
  const { level, shapes } = await readWholeLevel(tx, workshop, 'surfaces')
  try {
    return { mesh: levelMesh(level, shapes.solid), lamps: levelLamps(level) }
  } catch (error) {
    if (!(error instanceof LevelMeshError || error instanceof TooLongToDeal)) throw error
    throw new ApiError(422, 'no-mesh', error.message, { field: 'operations' })
  }
}

/**
 * Where a part is worked on. One that came as a mesh gets its workshop now: in it lies its shape, as a part that is not
 * in the kit.
 *
 * @throws ApiError 404
 */
export async function openPart(db: Database, id: string): Promise<Workshop> {
  return inTransaction(db, async tx => {
    // Two who open it at once get the same one.
    const [row] = await tx.select().from(parts).where(eq(parts.id, id)).for('update')
    if (!row) throw ApiError.notFound('part')
    const [found] = await tx
      .select({ levelId: levels.id, revision: levels.revision })
      .from(levels)
      .where(eq(levels.partId, id))
    if (found) return { ...found, madeOf: row.madeOf ?? 0 }
    const [shape, workshop] = [v7(), v7()]
    const part = await getPart(tx, id)
    await tx
      .insert(parts)
      .values({ ...partToRow({ ...part, id: shape, inKit: false, sockets: [] }, row.position), madeOf: null })
    const content = createPlacement({ id: v7(), name: part.name, kind: 'part', partId: shape })
    await insertLevel(tx, workshop, part.name, { placements: [content] })
    await tx.update(levels).set({ partId: id }).where(eq(levels.id, workshop))
    await tx.update(parts).set({ madeOf: 0 }).where(eq(parts.id, id))
    return { levelId: workshop, revision: 0, madeOf: 0 }
  })
}

/**
 * Makes a part's mesh of what is in its workshop now, and then those of all parts it is in, however deep; all of them
 * or none. For a process of its own.
 *
 * @returns those that were made
 * @throws ApiError 404; 422 if it has no workshop, or no mesh can be made
 */
export async function remakePartJob(db: Database, { id }: { id: string }): Promise<Part[]> {
  return inTransaction(db, async tx => {
    await lockNesting(tx)
    await getPart(tx, id)
    const made: string[] = []
    for (const each of await withAllAround(tx, id)) {
      const [workshop] = await tx
        .select({ id: levels.id, revision: levels.revision })
        .from(levels)
        .where(eq(levels.partId, each))
        .for('update')
      if (!workshop) {
        if (each === id) throw new ApiError(422, 'no-workshop', 'id: this part was not opened.', { field: 'id' })
        continue
      }
      const { mesh, lamps } = await madeOf(tx, workshop.id)
      await replaceMesh(tx, await getPart(tx, each), { mesh, pictures: new Map() }, lamps, workshop.revision)
      made.push(each)
    }
    const found: Part[] = []
    for (const each of made) found.push(await getPart(tx, each))
    return found
  })
}

/** A part and all that it is in, each before those that it is in. */
async function withAllAround(tx: Transaction, id: string): Promise<string[]> {
  const order: string[] = []
  const seen = new Set<string>()
  const walk = async (at: string): Promise<void> => {
    if (seen.has(at)) return
    seen.add(at)
    for (const around of await partsAround(tx, at)) await walk(around)
    order.push(at)
  }
  await walk(id)
  return order.reverse()
}

async function partsAround(tx: Transaction, id: string): Promise<string[]> {
  const rows = await tx
    .selectDistinct({ id: levels.partId })
    .from(placements)
    .innerJoin(levels, eq(placements.levelId, levels.id))
    .where(and(eq(placements.partId, id), isNotNull(levels.partId)))
    .orderBy(asc(levels.partId))
  return rows.map(row => row.id!)
}

/**
 * Sees to it that no part comes to be inside itself, before things are put into a level.
 *
 * @param put the parts that are put into it
 * @throws ApiError 422
 */
export async function refuseNesting(tx: Transaction, levelId: string, put: readonly string[]): Promise<void> {
  if (put.length === 0) return
  const [level] = await tx.select({ partId: levels.partId }).from(levels).where(eq(levels.id, levelId))
  if (!level?.partId) return
  // Of two that would each put the other in, the second sees what the first did.
  await lockNesting(tx)
  const around = new Set(await withAllAround(tx, level.partId))
  if (put.some(id => around.has(id)))
    throw new ApiError(422, 'cycle', 'changes: a part cannot be inside itself.', { field: 'changes' })
}

/** Until the transaction ends nobody else changes what is inside what. */
async function lockNesting(tx: Transaction): Promise<void> {
  await tx.execute(sql`select pg_advisory_xact_lock(${NESTING})`)
}
/** Any number that nothing else here locks. */
const NESTING = 20_261_126

/** Where a part is placed. @throws ApiError 404 */
export async function usesOfPart(db: Database, id: string): Promise<PartUses> {
  await getPart(db, id)
  const rows = await db
    .select({ id: levels.id, name: levels.name, partId: levels.partId, placements: count() })
    .from(placements)
    .innerJoin(levels, eq(placements.levelId, levels.id))
    .where(and(eq(placements.partId, id), isNull(levels.deletedAt)))
    .groupBy(levels.id, levels.name, levels.partId)
    .orderBy(asc(levels.name))
  const partIds = rows.flatMap(({ partId, ...row }) => (partId === null ? [] : [{ ...row, id: partId }]))
  return { levels: rows.flatMap(({ partId, ...row }) => (partId === null ? [row] : [])), parts: partIds }
}

/**
 * Adds a part that is like another, with a workshop of its own if that has one. Sending it again is answered as done.
 *
 * @throws ApiError 404
 */
export async function copyPart(db: Database, from: string, { id, name, inKit }: PartCopy): Promise<Part> {
  return inTransaction(db, async tx => {
    await copyOfPart(tx, from, { id, name, inKit })
    const [workshop] = await tx
      .select({ id: levels.id, placementCount: levels.placementCount })
      .from(levels)
      .where(eq(levels.partId, from))
    const [copied] = await tx.select({ id: levels.id }).from(levels).where(eq(levels.partId, id))
    if (workshop && !copied) {
      const own = v7()
      await tx.insert(levels).values({ id: own, name, placementCount: workshop.placementCount, partId: id })
      await duplicateContent(tx, workshop.id, own)
    }
    return getPart(tx, id)
  })
}
