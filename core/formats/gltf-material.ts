import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex } from '@noble/hashes/utils.js'
import type { Material as GltfMaterial, Texture as GltfTexture, TextureInfo } from '@gltf-transform/core'
import type { Transform } from '@gltf-transform/extensions'
import type { Material } from '../mesh/mesh'
import type { Picture, Texture, TextureSlot } from '../mesh/texture'
import { PICTURE_TYPES, pictureTypeOf } from '../mesh/texture'
import { GlbError } from './glb-chunks'
import { STORED_PICTURE } from './check-glb'

/** Reads materials of a file, and gathers the pictures they show. */
export class MaterialReader {
  /** Those that lie in the file, by the SHA-256 of their bytes. */
  readonly pictures = new Map<string, Picture>()
  private readonly names = new Map<GltfTexture, Pick<Texture, 'picture' | 'type'>>()

  /** @throws GlbError if a picture is none that is taken in */
  read(material: GltfMaterial | null): Material {
    if (!material) return { name: 'Plain', baseColor: [1, 1, 1], roughness: 1, metallic: 1, emissive: [0, 0, 0] }
    const [r, g, b, alpha] = material.getBaseColorFactor()
    const mode = material.getAlphaMode()
    const slots: [TextureSlot, GltfTexture | null, TextureInfo | null, number?][] = [
      ['baseColor', material.getBaseColorTexture(), material.getBaseColorTextureInfo()],
      ['metallicRoughness', material.getMetallicRoughnessTexture(), material.getMetallicRoughnessTextureInfo()],
      ['normal', material.getNormalTexture(), material.getNormalTextureInfo(), material.getNormalScale()],
      [
        'occlusion',
        material.getOcclusionTexture(),
        material.getOcclusionTextureInfo(),
        material.getOcclusionStrength(),
      ],
      ['emissive', material.getEmissiveTexture(), material.getEmissiveTextureInfo()],
    ]
    const textures = slots.flatMap(([slot, texture, info, strength]) =>
      texture && info ? [[slot, this.textureOf(texture, info, strength)] as const] : [],
    )
    return {
      name: material.getName(),
      baseColor: [r, g, b],
      roughness: material.getRoughnessFactor(),
      metallic: material.getMetallicFactor(),
      emissive: material.getEmissiveFactor(),
      ...(mode === 'BLEND' || (mode === 'MASK' && alpha < 1) ? { opacity: alpha } : {}),
      ...(mode === 'MASK' ? { cutoff: material.getAlphaCutoff() } : {}),
      ...(material.getDoubleSided() ? { doubleSided: true } : {}),
      ...(textures.length > 0 ? { textures: Object.fromEntries(textures) } : {}),
    }
  }

  private textureOf(texture: GltfTexture, info: TextureInfo, strength = 1): Texture {
    const transform = info.getExtension<Transform>('KHR_texture_transform')
    const texCoord = transform?.getTexCoord() ?? info.getTexCoord()
    if (texCoord > 1) throw new GlbError('a texture lies on texture coordinates beyond the second set')
    const [minFilter, magFilter] = [info.getMinFilter(), info.getMagFilter()]
    return {
      ...this.nameOf(texture),
      texCoord: texCoord === 0 ? 0 : 1,
      sampler: {
        wrapS: info.getWrapS(),
        wrapT: info.getWrapT(),
        ...(minFilter ? { minFilter } : {}),
        ...(magFilter ? { magFilter } : {}),
      },
      ...(transform
        ? {
            transform: {
              offset: transform.getOffset(),
              rotation: transform.getRotation(),
              scale: transform.getScale(),
            },
          }
        : {}),
      ...(strength === 1 ? {} : { strength }),
    }
  }

  private nameOf(texture: GltfTexture): Pick<Texture, 'picture' | 'type'> {
    const known = this.names.get(texture)
    if (known) return known
    const stored = STORED_PICTURE.exec(texture.getURI())?.[1]
    const bytes = texture.getImage()
    const type = stored ? PICTURE_TYPES.find(each => each === texture.getMimeType()) : bytes && pictureTypeOf(bytes)
    if (!type)
      throw new GlbError(
        `the picture ${texture.getName() || texture.getURI() || 'of a texture'} is neither a PNG, a JPEG nor a WebP`,
      )
    const picture = stored ?? bytesToHex(sha256(bytes!))
    if (!stored) this.pictures.set(picture, { type, bytes: bytes! })
    this.names.set(texture, { picture, type })
    return { picture, type }
  }
}
