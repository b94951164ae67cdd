import { transfer } from 'comlink'
import { zipSync } from 'fflate'

/** Pictures as files. */
export function pictureWork() {
  return {
    /** A picture as PNG. */
    async png(bitmap: ImageBitmap): Promise<Uint8Array> {
      const canvas = new OffscreenCanvas(bitmap.width, bitmap.height)
      canvas.getContext('bitmaprenderer')!.transferFromImageBitmap(bitmap)
      const bytes = new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer())
      return transfer(bytes, [bytes.buffer])
    },

    /** Several files as one; they are packed already. */
    zip(files: Record<string, Uint8Array>): Uint8Array<ArrayBuffer> {
      const bytes = zipSync(files, { level: 0 }) as Uint8Array<ArrayBuffer>
      return transfer(bytes, [bytes.buffer])
    },
  }
}

export type PictureWork = ReturnType<typeof pictureWork>
