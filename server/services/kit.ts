import { createHash } from 'node:crypto'
import { asc, eq } from 'drizzle-orm'
import { writePartGlb } from '../../core/formats/part-glb'
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

/** Stores a part and its mesh; a mesh that is there already is not stored again. */
export async function addPart(tx: Transaction, part: Pick<Part, 'id' | 'name' | 'kind' | 'tags'>, mesh: Mesh, position: number): Promise<void> {
  const glb = await writePartGlb(part.name, mesh)
  const meshHash = createHash('sha256').update(glb).digest('hex')
  const { min, max } = meshBounds(mesh)
  await tx.insert(meshes).values({ hash: meshHash, glb }).onConflictDoNothing()
  await tx.insert(parts).values(partToRow({
    ...part, meshHash, boundsMin: min.toArray(), boundsMax: max.toArray(), triangles: triangleCount(mesh),
  }, position))
}
