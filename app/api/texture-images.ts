import { api } from './client'

const loaded = new Map<string, Promise<ImageBitmap>>()
const sizes = new Map<string, number>()

/** Bytes that a texture takes in the memory of the graphics card, with its smaller steps; 0 while it is not loaded. */
export const textureBytes = (picture: string): number => sizes.get(picture) ?? 0

/**
 * A texture's picture by its name, loaded once for all that show it.
 *
 * @throws ApiFailure, ServerAway; DOMException if it is no picture
 */
export function textureImage(picture: string): Promise<ImageBitmap> {
  let image = loaded.get(picture)
  if (!image) {
    loaded.set(picture, (image = api.texture(picture).then(decodePicture)))
    // Asked again, it may be there.
    image.then(
      ({ width, height }) => sizes.set(picture, Math.round((width * height * 4 * 4) / 3)),
      () => loaded.delete(picture),
    )
  }
  return image
}

/** The colours as they lie in the file: what they mean is said by the material. */
export function decodePicture(bytes: Blob): Promise<ImageBitmap> {
  return createImageBitmap(bytes, {
    premultiplyAlpha: 'none',
    colorSpaceConversion: 'none',
    imageOrientation: 'none' as ImageOrientation,
  })
}
