import { createHash } from 'node:crypto'
import { and, asc, eq, getTableColumns, inArray, max, notExists } from 'drizzle-orm'
import type { z } from 'zod'
import { GlbError } from '../../core/formats/glb-chunks'
import { readPartGlb, writePartGlb } from '../../core/formats/part-glb'
import type { Mesh } from '../../core/mesh/mesh'
import { meshBounds, picturesOf, triangleCount } from '../../core/mesh/mesh'
import { meshProblem } from '../../core/mesh/mesh-problem'
import type { PartMesh } from '../../core/formats/part-glb'
import type { PartPatch } from '../../core/api/schema'
import type { Part, KitEntry } from '../../core/level/part'
import { partSchema } from '../../core/level/part'
import type { Database, Transaction } from '../db/client'
import { inTransaction } from '../db/client'
import { isForeignKeyViolation } from '../db/failures'
import { partToRow, rowToPart } from '../db/rows'
import { meshes, parts, kitEntries } from '../db/schema'
import { ApiError } from '../utils/api-error'
import type { Picture } from '../../core/mesh/texture'
import { needPicture } from '../utils/picture'
import { dropUnusedTextures, storeTextures, texturesOfMesh } from './textures'

const { picture: _picture, ...listed } = getTableColumns(parts)

export async function listKit(db: Database | Transaction): Promise<{ parts: Part[]; entries: KitEntry[] }> {
  const rows = await db.select(listed).from(parts).orderBy(asc(parts.position))
  return { parts: rows.map(rowToPart), entries: await db.select().from(kitEntries).orderBy(asc(kitEntries.name)) }
}

/** The picture of a part. @throws ApiError 404 if there is none */
export async function getPartPicture(db: Database, id: string): Promise<Picture> {
  const [row] = await db.select({ bytes: parts.picture, type: parts.pictureType }).from(parts).where(eq(parts.id, id))
  if (!row?.bytes || !row.type) throw ApiError.notFound('picture')
  return { bytes: row.bytes, type: row.type }
}

/** @throws ApiError 404, 415 if the bytes are no picture taken here */
export async function putPartPicture(db: Database, id: string, bytes: Uint8Array): Promise<void> {
  await getPart(db, id)
  const pictureType = await needPicture(bytes)
  await db.update(parts).set({ picture: bytes, pictureType }).where(eq(parts.id, id))
}

/** Makes several parts one entry of the kit, or changes it. @throws ApiError 422 if a part is not there */
export async function putKitEntry(db: Database, entry: KitEntry): Promise<KitEntry> {
  const there = await db.select({ id: parts.id }).from(parts).where(inArray(parts.id, entry.parts))
  if (there.length < new Set(entry.parts).size)
    throw new ApiError(422, 'unknown-part', 'parts: the kit has not all of these.', { field: 'parts' })
  await db.insert(kitEntries).values(entry).onConflictDoUpdate({ target: kitEntries.id, set: entry })
  return entry
}

/** @throws ApiError 404 */
export async function deleteKitEntry(db: Database, id: string): Promise<void> {
  const gone = await db.delete(kitEntries).where(eq(kitEntries.id, id)).returning({ id: kitEntries.id })
  if (gone.length === 0) throw ApiError.notFound('entry')
}

/** @throws ApiError 404 */
export async function getPart(db: Database | Transaction, id: string): Promise<Part> {
  const [row] = await db.select(listed).from(parts).where(eq(parts.id, id))
  if (!row) throw ApiError.notFound('part')
  return rowToPart(row)
}

/** The binary glTF stored under a hash. @throws ApiError 404 */
export async function getMesh(db: Database | Transaction, hash: string): Promise<Uint8Array> {
  const [row] = /^[0-9a-f]{64}$/.test(hash) ? await db.select().from(meshes).where(eq(meshes.hash, hash)) : []
  if (!row) throw ApiError.notFound('mesh')
  return row.glb
}

/** A part as it is stored; null if what is stored of it makes no sense. */
export const readablePart = (row: Parameters<typeof rowToPart>[0]): Part | null =>
  partSchema.safeParse(rowToPart(row)).data ?? null

/** A mesh as it is stored; null if what is stored is none that can be worked with. @throws ApiError 404 */
export async function readableMesh(db: Database | Transaction, hash: string): Promise<Mesh | null> {
  try {
    const { mesh } = await readPartGlb(await getMesh(db, hash))
    return meshProblem(mesh) === null ? mesh : null
  } catch (error) {
    if (error instanceof GlbError) return null
    throw error
  }
}

/** What is given of a new part; the rest is measured on its mesh. */
export type NewPart = Pick<Part, 'id' | 'name' | 'kind' | 'tags' | 'inKit' | 'kit'>
  & Partial<Pick<Part, 'sockets' | 'lamps' | 'settlesAs' | 'pivot'>>

/** Changes what a part is called and found by, and where new placements of it have their pivot. @throws ApiError 404 */
export async function patchPart(db: Database, id: string, { pivot, ...fields }: PartPatch): Promise<Part> {
  const place = pivot && { pivotX: pivot[0], pivotY: pivot[1], pivotZ: pivot[2] }
  await getPart(db, id)
  await db
    .update(parts)
    .set({ ...fields, ...place })
    .where(eq(parts.id, id))
  return getPart(db, id)
}

/**
 * Takes a part out of the kit for good, with its mesh if no other part has it.
 *
 * @throws ApiError 404, 409 while a level uses it
 */
export async function deletePart(db: Database, id: string): Promise<void> {
  await inTransaction(db, async tx => {
    const { meshHash } = await getPart(tx, id)
    try {
      await tx.delete(parts).where(eq(parts.id, id))
    } catch (error) {
      if (!isForeignKeyViolation(error)) throw error
      throw new ApiError(
        409,
        'in-use',
        'A level or another part still uses this part; one that was deleted counts as long as it can be brought back.',
      )
    }
    await dropUnusedMesh(tx, meshHash)
  })
}

/** Takes a mesh away that no part has any more, with the pictures that only it has shown. */
async function dropUnusedMesh(tx: Transaction, hash: string): Promise<void> {
  // Whoever takes the same mesh in is waited for: what they stored is seen by the question after this one.
  await tx.select({ hash: meshes.hash }).from(meshes).where(eq(meshes.hash, hash)).for('update')
  const shown = await texturesOfMesh(tx, hash)
  await tx
    .delete(meshes)
    .where(and(eq(meshes.hash, hash), notExists(tx.select().from(parts).where(eq(parts.meshHash, hash)))))
  await dropUnusedTextures(tx, shown)
}

/**
 * Stores a part and its mesh, behind all others; a mesh or a part that is there already is not stored again.
 *
 * @param madeOf the revision of its workshop that the mesh was made of; null if it has none
 * @throws ApiError 415 or 422 if what is in the mesh is nothing that the page would read
 */
export async function addPart(
  tx: Transaction,
  part: NewPart,
  made: PartMesh,
  madeOf: number | null = null,
): Promise<void> {
  const whole = await withMesh(tx, { sockets: [], pivot: [0, 0, 0], ...part, hasPicture: false }, made)
  await tx
    .insert(parts)
    .values({ ...partToRow(whole, await nextPosition(tx)), madeOf })
    .onConflictDoNothing()
}

/** Stores a part that shows the same as another; nothing if it is there already. @throws ApiError 404 */
export async function copyOfPart(
  tx: Transaction,
  from: string,
  changed: Pick<Part, 'id' | 'name' | 'inKit'>,
): Promise<void> {
  // Held until the copy is there, so that its mesh is not taken away meanwhile.
  const [row] = await tx.select().from(parts).where(eq(parts.id, from)).for('key share')
  if (!row) throw ApiError.notFound('part')
  await tx
    .insert(parts)
    .values({ ...row, ...changed, madeOf: row.madeOf === null ? null : 0, position: await nextPosition(tx) })
    .onConflictDoNothing()
}

async function nextPosition(tx: Transaction): Promise<number> {
  const [last] = await tx.select({ position: max(parts.position) }).from(parts)
  return (last?.position ?? -1) + 1
}

/** Gives a part another mesh: whatever shows the part shows that from now on. @throws ApiError as `addPart` */
export async function replaceMesh(
  tx: Transaction,
  part: Part,
  made: PartMesh,
  lamps: Part['lamps'],
  madeOf: number,
): Promise<void> {
  const whole = await withMesh(tx, { ...part, lamps }, made)
  const { position: _position, ...row } = partToRow(whole, 0)
  await tx
    .update(parts)
    .set({ ...row, madeOf, ...(whole.meshHash === part.meshHash ? {} : { picture: null, pictureType: null }) })
    .where(eq(parts.id, part.id))
  if (whole.meshHash !== part.meshHash) await dropUnusedMesh(tx, part.meshHash)
}

/**
 * A part with what is measured on its mesh, once that and its pictures are stored: the one way in for every mesh.
 *
 * @throws ApiError 415 or 422
 */
async function withMesh(
  tx: Transaction,
  part: Omit<z.input<typeof partSchema>, 'meshHash' | 'boundsMin' | 'boundsMax' | 'triangles'>,
  { mesh, pictures }: PartMesh,
): Promise<Part> {
  const problem = meshProblem(mesh)
  if (problem) throw new ApiError(422, 'not-a-mesh', `body: this can be no part's mesh: ${problem}.`, { field: 'body' })
  const glb = await writePartGlb(part.name, mesh)
  const meshHash = createHash('sha256').update(glb).digest('hex')
  const { min, max: most } = meshBounds(mesh)
  const whole = partSchema.safeParse({
    ...part,
    meshHash,
    boundsMin: min.toArray(),
    boundsMax: most.toArray(),
    triangles: triangleCount(mesh),
  })
  if (!whole.success) throw ApiError.invalid(whole.error)
  // Written even if it is there already: so nobody takes it away before this is done.
  await tx
    .insert(meshes)
    .values({ hash: meshHash, glb })
    .onConflictDoUpdate({ target: meshes.hash, set: { hash: meshHash } })
  await storeTextures(tx, meshHash, picturesOf(mesh), pictures)
  return whole.data
}

/** Adds a part, all of it or nothing. */
export function storePart(db: Database, part: NewPart, made: PartMesh): Promise<void> {
  return inTransaction(db, tx => addPart(tx, part, made))
}
