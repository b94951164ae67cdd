import { createHash } from 'node:crypto'
import sharp from 'sharp'
import { BoxGeometry } from 'three'
import type { Mesh } from '../core/mesh/mesh'
import type { Picture, PictureType, Texture } from '../core/mesh/texture'
import { TEST_MATERIAL } from './support'

/** A picture of one colour; no two colours make the same bytes. */
export async function testPicture(type: PictureType, red: number, size = 8): Promise<Picture & { name: string }> {
  const plain = sharp({ create: { width: size, height: size, channels: 3, background: { r: red, g: 90, b: 160 } } })
  const bytes = new Uint8Array(
    await (type === 'image/png' ? plain.png() : type === 'image/jpeg' ? plain.jpeg() : plain.webp()).toBuffer(),
  )
  return { type, bytes, name: createHash('sha256').update(bytes).digest('hex') }
}

export const textureOf = ({ name, type }: Picture & { name: string }, more: Partial<Texture> = {}): Texture => ({
  picture: name,
  type,
  texCoord: 0,
  sampler: { wrapS: 10497, wrapT: 33071, minFilter: 9987, magFilter: 9729 },
  ...more,
})

/** A box of a metre with texture coordinates, colours and a texture in every slot, in all three kinds of picture. */
export async function texturedBox(red = 40): Promise<{ mesh: Mesh; pictures: Map<string, Picture> }> {
  const [png, jpeg, webp] = await Promise.all([
    testPicture('image/png', red),
    testPicture('image/jpeg', red + 1),
    testPicture('image/webp', red + 2),
  ])
  const box = new BoxGeometry(1, 1, 1)
  const floats = (name: string) => Float32Array.from(box.getAttribute(name).array)
  const count = box.getAttribute('position').count
  return {
    pictures: new Map([png, jpeg, webp].map(({ name, type, bytes }) => [name, { type, bytes }])),
    mesh: {
      primitives: [
        {
          material: {
            ...TEST_MATERIAL,
            name: 'Painted',
            doubleSided: true,
            opacity: 0.75,
            cutoff: 0.25,
            textures: {
              baseColor: textureOf(png, { transform: { offset: [0.25, 0.5], rotation: 0.5, scale: [2, 3] } }),
              metallicRoughness: textureOf(jpeg),
              normal: textureOf(webp, { strength: 0.5 }),
              occlusion: textureOf(jpeg, { texCoord: 1, strength: 0.25 }),
              emissive: textureOf(png, { sampler: { wrapS: 33648, wrapT: 10497 } }),
            },
          },
          positions: floats('position'),
          normals: floats('normal'),
          indices: Uint32Array.from(box.getIndex()!.array),
          uvs: [floats('uv'), floats('uv').map(value => 1 - value)],
          colors: Float32Array.from({ length: count * 4 }, (_, i) => (i % 4 === 3 ? 1 : (i % 7) / 7)),
        },
      ],
    },
  }
}
