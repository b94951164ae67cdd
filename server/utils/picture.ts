import sharp from 'sharp'
import type { PictureType } from '../../core/mesh/texture'
import { ApiError } from './api-error'

/** More pixels than a level's picture needs; a small file can claim many. */
const MOST_PIXELS = 4096 * 4096
const TYPES: Partial<Record<string, PictureType>> = { png: 'image/png', webp: 'image/webp', jpeg: 'image/jpeg' }

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
