import { and, eq, isNull } from 'drizzle-orm'
import sharp from 'sharp'
import type { Picture, PictureType } from '../../core/mesh/texture'
import type { Database } from '../db/client'
import { levels } from '../db/schema'
import { ApiError } from '../utils/api-error'
import { needLevel } from './levels'

/** More pixels than a level's picture needs; a small file can claim many. */
const MOST_PIXELS = 4096 * 4096
const TYPES: Partial<Record<string, PictureType>> = { png: 'image/png', webp: 'image/webp', jpeg: 'image/jpeg' }

/** @throws ApiError 404 if there is no such level or it has no picture yet */
export async function getPicture(db: Database, id: string): Promise<Picture> {
  const [row] = await db.select({ bytes: levels.picture, type: levels.pictureType }).from(levels).where(and(eq(levels.id, id), isNull(levels.deletedAt)))
  if (!row?.bytes || !row.type) throw ApiError.notFound('picture')
  return { bytes: row.bytes, type: row.type }
}

/** @throws ApiError 404 if there is no such level, 415 if the bytes are no picture taken here */
export async function putPicture(db: Database, id: string, bytes: Uint8Array): Promise<void> {
  await needLevel(db, id)
  const pictureType = await needPicture(bytes)
  await db.update(levels).set({ picture: bytes, pictureType }).where(eq(levels.id, id))
}

/** What kind of picture it is. @throws ApiError 415 if it is none */
export async function needPicture(bytes: Uint8Array): Promise<PictureType> {
  const type = await pictureTypeOf(bytes)
  if (!type) throw new ApiError(415, 'not-a-picture', 'body: is neither a PNG, a WebP nor a JPEG picture.', { field: 'body' })
  return type
}

/** What kind of picture it is, if all of it can be read as one; null if not. */
async function pictureTypeOf(bytes: Uint8Array): Promise<PictureType | null> {
  try {
    const picture = sharp(bytes, { limitInputPixels: MOST_PIXELS, failOn: 'error' })
    const { format } = await picture.metadata()
    await picture.stats()
    return TYPES[format] ?? null
  }
  catch {
    return null
  }
}
