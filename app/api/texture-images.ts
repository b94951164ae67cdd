import { api } from './client'

const loaded = new Map<string, Promise<ImageBitmap>>()

/** A texture's picture by its name, loaded once for all that show it. @throws ApiFailure, ServerAway; DOMException if it is no picture */
export function textureImage(picture: string): Promise<ImageBitmap> {
  let image = loaded.get(picture)
  if (!image) {
    loaded.set(picture, image = api.texture(picture).then(decodePicture))
    // Asked again, it may be there.
    image.catch(() => loaded.delete(picture))
  }
  return image
}

/** The colours as they lie in the file: what they mean is said by the material. */
export function decodePicture(bytes: Blob): Promise<ImageBitmap> {
  return createImageBitmap(bytes, { premultiplyAlpha: 'none', colorSpaceConversion: 'none', imageOrientation: 'none' as ImageOrientation })
}
