import { and, eq, isNull, lte } from 'drizzle-orm'
import type { Picture } from '../../core/mesh/texture'
import type { Database } from '../db/client'
import { levels } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { needPicture } from '../utils/picture'
import { needLevel } from './levels'

/** @throws ApiError 404 if there is no such level or it has no picture yet */
export async function getPicture(db: Database, id: string): Promise<Picture> {
  const [row] = await db
    .select({ bytes: levels.picture, type: levels.pictureType })
    .from(levels)
    .where(and(eq(levels.id, id), isNull(levels.deletedAt)))
  if (!row?.bytes || !row.type) throw ApiError.notFound('picture')
  return { bytes: row.bytes, type: row.type }
}

/**
 * @param revision what it shows: the level as it was after so many changes; a picture of a later state is left as it is
 * @throws ApiError 404 if there is no such level, 415 if the bytes are no picture taken here
 */
export async function putPicture(db: Database, id: string, bytes: Uint8Array, revision: number): Promise<void> {
  await needLevel(db, id)
  const pictureType = await needPicture(bytes)
  await db
    .update(levels)
    .set({ picture: bytes, pictureType, pictureRevision: revision })
    .where(and(eq(levels.id, id), lte(levels.pictureRevision, revision)))
}
