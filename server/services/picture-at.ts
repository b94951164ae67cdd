import { and, eq } from 'drizzle-orm'
import type { Transaction } from '../db/client'
import { levels } from '../db/schema'

/** A level's picture as columns of a table, if it is of the level as it was after so many changes. */
export async function pictureAt(tx: Transaction, levelId: string, revision: number) {
  const [row] = await tx
    .select({ picture: levels.picture, pictureType: levels.pictureType })
    .from(levels)
    .where(and(eq(levels.id, levelId), eq(levels.pictureRevision, revision)))
  return row
}
