import { createReadStream } from 'node:fs'
import { and, eq, lt, sql } from 'drizzle-orm'
import type { Database } from '../db/client'
import { madeFiles } from '../db/schema'
import { ApiError } from '../utils/api-error'

// A file that one process has made and another sends: through the database, which both see.

/** Bytes of a piece. */
const PIECE = 1024 * 1024
/** Minutes after which nobody sends it any more. */
const KEPT = 10

/** What is in some files, one after the other. */
export async function* readInOrder(paths: readonly string[], piece = 256 * 1024): AsyncGenerator<Buffer> {
  for (const path of paths) yield* createReadStream(path, { highWaterMark: piece }) as AsyncIterable<Buffer>
}

/** Puts a file where every process can read it; what nobody has sent for long is removed meanwhile. */
export async function keepMadeFile(db: Database, jobId: string, paths: readonly string[]): Promise<void> {
  await db.delete(madeFiles).where(lt(madeFiles.madeAt, sql`now() - make_interval(mins => ${KEPT})`))
  // What a process has left that was killed while it did the same.
  await removeMadeFile(db, jobId)
  let piece = 0
  for await (const bytes of readInOrder(paths, PIECE))
    await db.insert(madeFiles).values({ jobId, piece: piece++, bytes })
}

/** Such a file, piece by piece. @throws ApiError 503 where a piece of it was lost */
export async function* readMadeFile(db: Database, jobId: string, length: number): AsyncGenerator<Uint8Array> {
  let read = 0
  for (let piece = 0; read < length; piece++) {
    const [row] = await db
      .select({ bytes: madeFiles.bytes })
      .from(madeFiles)
      .where(and(eq(madeFiles.jobId, jobId), eq(madeFiles.piece, piece)))
    if (!row) throw new ApiError(503, 'busy', 'What was made is lost. Try again.')
    read += row.bytes.length
    yield row.bytes
  }
}

export async function removeMadeFile(db: Database, jobId: string): Promise<void> {
  await db.delete(madeFiles).where(eq(madeFiles.jobId, jobId))
}
