import { createHash } from 'node:crypto'
import { asc, eq, max } from 'drizzle-orm'
import { writePartGlb } from '../../core/formats/part-glb'
import type { Mesh } from '../../core/mesh/mesh'
import { meshBounds, triangleCount } from '../../core/mesh/mesh'
import type { Part } from '../../core/level/part'
import { partSchema } from '../../core/level/part'
import type { Database, Transaction } from '../db/client'
import { inTransaction } from '../db/client'
import { isForeignKeyViolation } from '../db/failures'
import { partToRow, rowToPart } from '../db/rows'
import { meshes, parts } from '../db/schema'
import { ApiError } from '../utils/api-error'

export async function listParts(db: Database): Promise<Part[]> {
  return (await db.select().from(parts).orderBy(asc(parts.position))).map(rowToPart)
}

/** @throws ApiError 404 */
export async function getPart(db: Database, id: string): Promise<Part> {
  const [row] = await db.select().from(parts).where(eq(parts.id, id))
  if (!row) throw ApiError.notFound('part')
  return rowToPart(row)
}

/** The binary glTF stored under a hash. @throws ApiError 404 */
export async function getMesh(db: Database, hash: string): Promise<Uint8Array> {
  const [row] = /^[0-9a-f]{64}$/.test(hash) ? await db.select().from(meshes).where(eq(meshes.hash, hash)) : []
  if (!row) throw ApiError.notFound('mesh')
  return row.glb
}

/** What is given of a new part; the rest is measured on its mesh. */
export type NewPart = Pick<Part, 'id' | 'name' | 'kind' | 'tags' | 'inKit'>

/** Changes where new placements of a part have their pivot. @throws ApiError 404 */
export async function setPartPivot(db: Database, id: string, [pivotX, pivotY, pivotZ]: Part['pivot']): Promise<Part> {
  await db.update(parts).set({ pivotX, pivotY, pivotZ }).where(eq(parts.id, id))
  return getPart(db, id)
}

/** Takes a part out of the kit for good, with its mesh if no other part has it. @throws ApiError 404, 409 while a level uses it */
export async function deletePart(db: Database, id: string): Promise<void> {
  const { meshHash } = await getPart(db, id)
  try {
    await db.delete(parts).where(eq(parts.id, id))
  }
  catch (error) {
    if (!isForeignKeyViolation(error)) throw error
    throw new ApiError(409, 'in-use', 'A level still uses this part; one that was deleted counts as long as it can be brought back.')
  }
  // Another part may have it, or get it at this moment.
  await db.delete(meshes).where(eq(meshes.hash, meshHash)).catch((error: unknown) => {
    if (!isForeignKeyViolation(error)) throw error
  })
}

/**
 * Stores a part and its mesh, behind all others; a mesh or a part that is there already is not stored again.
 *
 * @throws ApiError 422 if what is measured on the mesh is nothing that the page would read
 */
export async function addPart(tx: Transaction, part: NewPart, mesh: Mesh): Promise<void> {
  const glb = await writePartGlb(part.name, mesh)
  const meshHash = createHash('sha256').update(glb).digest('hex')
  const { min, max: most } = meshBounds(mesh)
  const whole = partSchema.safeParse({ ...part, meshHash, boundsMin: min.toArray(), boundsMax: most.toArray(), triangles: triangleCount(mesh), pivot: [0, 0, 0] })
  if (!whole.success) throw ApiError.invalid(whole.error)
  const [last] = await tx.select({ position: max(parts.position) }).from(parts)
  await tx.insert(meshes).values({ hash: meshHash, glb }).onConflictDoNothing()
  await tx.insert(parts).values(partToRow(whole.data, (last?.position ?? -1) + 1)).onConflictDoNothing()
}

/** Adds a part, all of it or nothing. */
export function storePart(db: Database, part: NewPart, mesh: Mesh): Promise<void> {
  return inTransaction(db, tx => addPart(tx, part, mesh))
}
