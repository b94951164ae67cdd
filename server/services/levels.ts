import { and, asc, desc, eq, isNull, lt } from 'drizzle-orm'
import { v7 } from 'uuid'
import type { Level, LevelPatch, LevelSummary, NewLevel } from '../../core/api/schema'
import { readPartGlb } from '../../core/formats/part-glb'
import type { PartToHandOver } from '../../core/formats/level-glb'
import { hugsGround } from '../../core/arrange/settle'
import { writeLevelGlb } from '../../core/formats/level-glb'
import { LevelIndex } from '../../core/geometry/level-index'
import { Solid } from '../../core/geometry/solid'
import { isBlockKey, meshOfBlockKey } from '../../core/kit/block-key'
import { LevelDocument } from '../../core/level/document'
import { isGround } from '../../core/level/ground'
import type { Block, Layer, Placement, Station } from '../../core/level/schema'
import { lanternQuay } from '../../demo/lantern-quay'
import type { Database, Transaction } from '../db/client'
import { placementToRow, rowToPlacement } from '../db/rows'
import { levels, meshes, parts, placements } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { demoPicture } from './seed'
import { SMALL_TABLES } from './small-tables'

/** A deleted level can be brought back for this long. */
const KEPT_DAYS = 30
/** Keeps a statement well below the protocol's 65,535 parameters. */
export const ROWS_PER_STATEMENT = 1000

const summaryColumns = {
  id: levels.id, name: levels.name, revision: levels.revision, placementCount: levels.placementCount,
  pictureType: levels.pictureType, createdAt: levels.createdAt, changedAt: levels.changedAt,
}

type SummaryRow = Pick<typeof levels.$inferSelect, keyof typeof summaryColumns>

function toSummary({ pictureType, createdAt, changedAt, ...row }: SummaryRow): LevelSummary {
  return { ...row, hasPicture: pictureType !== null, createdAt: createdAt.toISOString(), changedAt: changedAt.toISOString() }
}

/** All levels, the last changed first. */
export async function listLevels(db: Database): Promise<LevelSummary[]> {
  return (await db.select(summaryColumns).from(levels).where(isNull(levels.deletedAt)).orderBy(desc(levels.changedAt))).map(toSummary)
}

async function getSummary(db: Database | Transaction, id: string): Promise<LevelSummary> {
  const [row] = await db.select(summaryColumns).from(levels).where(and(eq(levels.id, id), isNull(levels.deletedAt)))
  if (!row) throw ApiError.notFound('level')
  return toSummary(row)
}

/** A level with all its placements, as of one moment. @throws ApiError 404 */
export async function getLevel(db: Database, id: string): Promise<Level> {
  return db.transaction(async (tx) => {
    const summary = await getSummary(tx, id)
    return { ...summary, ...await readContent(tx, id) }
  }, { isolationLevel: 'repeatable read', accessMode: 'read only' })
}

/** Starts a level: empty, from the demo, or as a duplicate. @throws ApiError 404 if there is nothing to duplicate */
export async function createLevel(db: Database, { name, from }: NewLevel): Promise<LevelSummary> {
  const id = v7()
  return db.transaction(async (tx) => {
    if (from === 'empty') await insertLevel(tx, id, name, { placements: [], layers: [], stations: [], blocks: [] })
    else if (from === 'demo') await insertLevel(tx, id, name, lanternQuay(), await demoPicture())
    else await duplicateLevel(tx, from, id, name)
    return getSummary(tx, id)
  })
}

/** What is in a level. */
export type LevelContent = { placements: Placement[], layers: Layer[], stations: Station[], blocks: Block[] }

async function readContent(tx: Transaction, id: string): Promise<LevelContent> {
  const rows = await tx.select().from(placements).where(eq(placements.levelId, id)).orderBy(asc(placements.order))
  const document = new LevelDocument()
  for (const table of SMALL_TABLES) await table.load(tx, id, document)
  const { layers, stations, blocks } = document
  return { placements: rows.map(rowToPlacement), layers: [...layers.values()], stations: [...stations.values()], blocks: [...blocks.values()] }
}

export async function insertLevel(tx: Transaction, id: string, name: string, content: LevelContent, picture?: Uint8Array): Promise<void> {
  await tx.insert(levels).values({ id, name, placementCount: content.placements.length, picture, pictureType: picture && 'image/webp' })
  const document = new LevelDocument([], content.layers, content.stations, content.blocks)
  for (const table of SMALL_TABLES) await table.write(tx, id, document, [...table.of(document).keys()])
  const rows = content.placements.map(placement => placementToRow(id, placement))
  for (let i = 0; i < rows.length; i += ROWS_PER_STATEMENT) await tx.insert(placements).values(rows.slice(i, i + ROWS_PER_STATEMENT))
}

async function duplicateLevel(tx: Transaction, sourceId: string, id: string, name: string): Promise<void> {
  const [source] = await tx.select().from(levels).where(and(eq(levels.id, sourceId), isNull(levels.deletedAt)))
  if (!source) throw ApiError.notFound('level to duplicate')
  await insertLevel(tx, id, name, await readContent(tx, sourceId))
  await tx.update(levels).set({ picture: source.picture, pictureType: source.pictureType }).where(eq(levels.id, id))
}

/** Renames a level or brings it back after it was deleted. @throws ApiError 404 */
export async function patchLevel(db: Database, id: string, { name, deleted }: LevelPatch): Promise<LevelSummary> {
  return db.transaction(async (tx) => {
    if (deleted === false) await tx.update(levels).set({ deletedAt: null }).where(eq(levels.id, id))
    await getSummary(tx, id)
    if (name !== undefined) await tx.update(levels).set({ name }).where(eq(levels.id, id))
    return getSummary(tx, id)
  })
}

/** Takes a level off the list; it can be brought back for some weeks. @throws ApiError 404 */
export async function deleteLevel(db: Database, id: string): Promise<void> {
  await getSummary(db, id)
  await db.update(levels).set({ deletedAt: new Date() }).where(eq(levels.id, id))
  await db.delete(levels).where(lt(levels.deletedAt, new Date(Date.now() - KEPT_DAYS * 86_400_000)))
}

export type Picture = { bytes: Uint8Array, type: string }

/** @throws ApiError 404 if there is no such level or it has no picture yet */
export async function getPicture(db: Database, id: string): Promise<Picture> {
  const [row] = await db.select({ bytes: levels.picture, type: levels.pictureType }).from(levels).where(eq(levels.id, id))
  if (!row?.bytes || !row.type) throw ApiError.notFound('picture')
  return { bytes: row.bytes, type: row.type }
}

/** @throws ApiError 404 if there is no such level, 415 if the bytes are no picture taken here */
export async function putPicture(db: Database, id: string, bytes: Uint8Array): Promise<void> {
  const pictureType = pictureTypeOf(bytes)
  if (!pictureType) throw new ApiError(415, 'not-a-picture', 'The body is neither a PNG, a WebP nor a JPEG picture.', { field: 'body' })
  await getSummary(db, id)
  await db.update(levels).set({ picture: bytes, pictureType }).where(eq(levels.id, id))
}

/** By the first bytes of the formats (PNG: ISO/IEC 15948; WebP: RFC 9649; JPEG: ITU-T T.81). */
function pictureTypeOf(bytes: Uint8Array): 'image/png' | 'image/webp' | 'image/jpeg' | null {
  const ascii = (from: number, to: number) => String.fromCharCode(...bytes.subarray(from, to))
  if (ascii(0, 8) === '\x89PNG\r\n\x1A\n') return 'image/png'
  if (ascii(0, 4) === 'RIFF' && ascii(8, 12) === 'WEBP') return 'image/webp'
  if (ascii(0, 3) === '\xFF\xD8\xFF') return 'image/jpeg'
  return null
}

/** The level as a binary glTF file, with its name. @param instanced whether copies are instances @throws ApiError 404 */
export async function exportLevel(db: Database, id: string, instanced: boolean): Promise<{ name: string, glb: Uint8Array }> {
  const level = await getLevel(db, id)
  const used = await db.selectDistinct({ id: parts.id, name: parts.name, tags: parts.tags, glb: meshes.glb }).from(placements)
    .innerJoin(parts, eq(placements.partId, parts.id)).innerJoin(meshes, eq(parts.meshHash, meshes.hash))
    .where(eq(placements.levelId, id))
  const loaded = new Map<string, PartToHandOver>()
  for (const part of used) loaded.set(part.id, { name: part.name, mesh: await readPartGlb(part.glb) })
  const document = new LevelDocument(level.placements, [], [], level.blocks)
  if (level.placements.some(({ own }) => hugsGround(own))) lendGround(document, loaded, id => used.find(part => part.id === id)?.tags ?? [])
  return { name: level.name, glb: await writeLevelGlb(level.name, document, loaded, instanced) }
}

/** Gives copies that hug the ground something to stand on, as the page does. */
function lendGround(document: LevelDocument, loaded: ReadonlyMap<string, PartToHandOver>, tagsOf: (partId: string) => readonly string[]): void {
  const solids = new Map<string, Solid>()
  const solidOf = (shape: string): Solid | undefined => {
    const mesh = isBlockKey(shape) ? meshOfBlockKey(shape) : loaded.get(shape)?.mesh
    if (mesh && !solids.has(shape)) solids.set(shape, new Solid(mesh))
    return solids.get(shape)
  }
  new LevelIndex(document, solidOf, id => isGround(document, tagsOf, id))
}
