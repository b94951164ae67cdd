/** What a texture is for, by the names of its field in glTF's materials. */
export const TEXTURE_SLOTS = ['baseColor', 'metallicRoughness', 'normal', 'occlusion', 'emissive'] as const
export type TextureSlot = (typeof TEXTURE_SLOTS)[number]

export const PICTURE_TYPES = ['image/png', 'image/jpeg', 'image/webp'] as const
export type PictureType = (typeof PICTURE_TYPES)[number]

/** A picture as it lies in a file. */
export type Picture = { type: PictureType; bytes: Uint8Array }

/** How a material uses a picture, in glTF's terms. */
export type Texture = {
  /** Names the picture: the SHA-256 of its bytes, in lower-case hexadecimal. */
  picture: string
  type: PictureType
  /** Which of the primitive's sets of UV coordinates: `uvs[0]` or `uvs[1]`. */
  texCoord: 0 | 1
  sampler: { wrapS: number; wrapT: number; minFilter?: number; magFilter?: number }
  /** KHR_texture_transform; the rotation in radians, counter-clockwise. */
  transform?: { offset: readonly [number, number]; rotation: number; scale: readonly [number, number] }
  /** A normal texture's scale, or an occlusion texture's strength; 1 when left out. */
  strength?: number
}

/** glTF's wrapping modes (glTF 2.0, 5.26): the numbers that OpenGL has for them. */
export const WRAPPING = { clamp: 33071, mirror: 33648, repeat: 10497 } as const

/**
 * What a picture is by its first bytes (PNG 3rd edition, 5.2; JPEG ISO/IEC 10918-1, B.1.1.3; WebP RFC 9649, 2.3); null
 * if none of these.
 */
export function pictureTypeOf(bytes: Uint8Array): PictureType | null {
  const starts = (signature: readonly number[], at = 0) => signature.every((byte, i) => bytes[at + i] === byte)
  if (starts([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])) return 'image/png'
  if (starts([0xff, 0xd8, 0xff])) return 'image/jpeg'
  if (starts([0x52, 0x49, 0x46, 0x46]) && starts([0x57, 0x45, 0x42, 0x50], 8)) return 'image/webp'
  return null
}
