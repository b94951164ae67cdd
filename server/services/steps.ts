import { eq } from 'drizzle-orm'
import { writeStepsGlb } from '../../core/formats/part-glb'
import { meshSteps as reduced } from '../../core/mesh/mesh-steps'
import type { Database } from '../db/client'
import { meshes, meshSteps } from '../db/schema'
import { readableMesh } from './kit'

/** What stands for a mesh at a distance: a file, or nothing where nothing simpler is; null if it was not made yet. */
export async function keptSteps(db: Database, hash: string): Promise<Uint8Array | null> {
  const [row] = /^[0-9a-f]{64}$/.test(hash) ? await db.select().from(meshSteps).where(eq(meshSteps.meshHash, hash)) : []
  return row ? (row.glb ?? new Uint8Array(0)) : null
}

/** Makes it, once. For a process of its own. @throws ApiError 404 */
export async function makeStepsJob(db: Database, { hash }: { hash: string }): Promise<Uint8Array> {
  const kept = await keptSteps(db, hash)
  if (kept) return kept
  const mesh = await readableMesh(db, hash)
  const steps = mesh ? await reduced(mesh) : []
  const glb = steps.length > 0 ? await writeStepsGlb(steps) : null
  await keepSteps(db, hash, glb)
  return glb ?? new Uint8Array(0)
}

/** Keeps what was made of a mesh; nothing if the mesh is gone by now: its part was made anew meanwhile. */
export async function keepSteps(
  db: Pick<Database, 'transaction'>,
  hash: string,
  glb: Uint8Array | null,
): Promise<void> {
  await db.transaction(async tx => {
    const [there] = await tx.select({ hash: meshes.hash }).from(meshes).where(eq(meshes.hash, hash)).for('key share')
    if (there) await tx.insert(meshSteps).values({ meshHash: hash, glb }).onConflictDoNothing()
  })
}
