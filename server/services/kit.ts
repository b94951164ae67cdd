import { createHash } from 'node:crypto'
import { asc, eq, max } from 'drizzle-orm'
import { readPartGlb, writePartGlb } from '../../core/formats/part-glb'
import type { Mesh } from '../../core/geometry/mesh'
import { meshBounds, triangleCount } from '../../core/geometry/mesh'
import type { Part } from '../../core/kit/part'
import type { Database, Transaction } from '../db/client'
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
  const [row] = await db.select().from(meshes).where(eq(meshes.hash, hash))
  if (!row) throw ApiError.notFound('mesh')
  return row.glb
}

/** What is given of a new part; the rest is measured on its mesh. */
export type NewPart = Pick<Part, 'id' | 'name' | 'kind' | 'tags' | 'inKit'>

/**
 * Adds a part that somebody made, behind all others. Sending the same one again is answered as done.
 * @throws ApiError 415 if the bytes are no binary glTF with a mesh of triangles
 */
export async function createPart(db: Database, part: NewPart, glb: Uint8Array): Promise<Part> {
  let mesh: Mesh
  try {
    mesh = await readPartGlb(glb)
  }
  catch (error) {
    throw new ApiError(415, 'not-a-mesh', `The body is no binary glTF with a mesh of triangles: ${error instanceof Error ? error.message : 'it cannot be read'}.`, { field: 'body' })
  }
  await db.transaction(async (tx) => {
    const [there] = await tx.select({ id: parts.id }).from(parts).where(eq(parts.id, part.id))
    const [last] = await tx.select({ position: max(parts.position) }).from(parts)
    if (!there) await addPart(tx, part, mesh, (last?.position ?? -1) + 1)
  })
  return getPart(db, part.id)
}

/** Changes where new placements of a part have their pivot. @throws ApiError 404 */
export async function setPartPivot(db: Database, id: string, [pivotX, pivotY, pivotZ]: Part['pivot']): Promise<Part> {
  await db.update(parts).set({ pivotX, pivotY, pivotZ }).where(eq(parts.id, id))
  return getPart(db, id)
}

/** Stores a part and its mesh; a mesh that is there already is not stored again. */
export async function addPart(tx: Transaction, part: NewPart, mesh: Mesh, position: number): Promise<void> {
  const glb = await writePartGlb(part.name, mesh)
  const meshHash = createHash('sha256').update(glb).digest('hex')
  const { min, max } = meshBounds(mesh)
  await tx.insert(meshes).values({ hash: meshHash, glb }).onConflictDoNothing()
  await tx.insert(parts).values(partToRow({
    ...part, meshHash, boundsMin: min.toArray(), boundsMax: max.toArray(), triangles: triangleCount(mesh), pivot: [0, 0, 0],
  }, position))
}
