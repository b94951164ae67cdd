import sharp from 'sharp'
import type { PictureType } from '../../core/mesh/texture'
import { ApiError } from './api-error'

/** More pixels than a level's picture needs; a small file can claim many. */
const MOST_PIXELS = 4096 * 4096
const TYPES: Partial<Record<string, PictureType>> = { png: 'image/png', webp: 'image/webp', jpeg: 'image/jpeg' }

/** What kind of picture it is. @throws ApiError 415 if it is none */
export async function needPicture(bytes: Uint8Array): Promise<PictureType> {
  const type = await pictureTypeOf(bytes, MOST_PIXELS)
  if (!type)
    throw new ApiError(415, 'not-a-picture', 'body: is neither a PNG, a WebP nor a JPEG picture.', { field: 'body' })
  return type
}

/** What kind of picture it is, if all of it can be read as one; null if not, or if it has more pixels. */
export async function pictureTypeOf(bytes: Uint8Array, mostPixels: number): Promise<PictureType | null> {
  try {
    const picture = sharp(bytes, { limitInputPixels: mostPixels, failOn: 'error', sequentialRead: true })
    const { format } = await picture.metadata()
    // All of it is read, and little of it is held.
    await picture.resize(16, 16, { fit: 'fill' }).raw().toBuffer()
    return TYPES[format] ?? null
  } catch {
    return null
  }
}

/** Pixels that a picture says it has; none if it is none. Nothing of it is unpacked. */
export async function pixelsOf(bytes: Uint8Array): Promise<number> {
  try {
    const { width, height } = await sharp(bytes, { limitInputPixels: false }).metadata()
    return width * height
  } catch {
    return 0
  }
}
