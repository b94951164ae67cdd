import type { GLTF } from '@gltf-transform/core'
import { z } from 'zod'
import { PICTURE_TYPES } from '../mesh/texture'
import { GlbError, readChunks } from './glb-chunks'

// What is looked at before a foreign binary glTF file (ISO/IEC 12113:2022, 4) is read: only what it really carries is
// allocated.

/** Where a picture lies that is stored here, seen from a mesh. */
export const STORED_PICTURE = /^\.\.\/textures\/([0-9a-f]{64})$/
const MOST_PICTURES = 256

/** Of all accessors of a file together; a body of the largest size taken cannot carry more that is used once. */
const MOST_ELEMENTS = 12_000_000
const MOST_JSON = 4 * 1024 * 1024

const index = z.int().min(0)
const accessorSchema = z.looseObject({
  bufferView: index,
  byteOffset: z.int().min(0).default(0),
  componentType: z.literal([5120, 5121, 5122, 5123, 5125, 5126]),
  count: z.int().min(1),
  type: z.literal(['SCALAR', 'VEC2', 'VEC3', 'VEC4', 'MAT2', 'MAT3', 'MAT4']),
  sparse: z.undefined({ error: 'sparse accessors are not taken in here' }).optional(),
})
const gltfSchema = z.looseObject({
  extensionsRequired: z
    .array(
      z.literal(['KHR_texture_transform', 'EXT_texture_webp'], 'the file needs extensions that are not taken in here'),
    )
    .optional(),
  buffers: z.tuple(
    [
      z.looseObject({
        byteLength: z.int().min(1),
        uri: z.undefined({ error: 'the data has to be in the file itself' }).optional(),
      }),
    ],
    'one buffer is needed, in the file itself',
  ),
  bufferViews: z.array(
    z.looseObject({
      buffer: z.literal(0),
      byteOffset: z.int().min(0).default(0),
      byteLength: z.int().min(1),
      byteStride: z.int().min(4).max(252).optional(),
    }),
  ),
  accessors: z.array(accessorSchema),
  images: z
    .array(
      z.looseObject({
        uri: z.string().regex(STORED_PICTURE, 'pictures have to be in the file itself, or stored here').optional(),
        mimeType: z.literal(PICTURE_TYPES, 'pictures are PNG, JPEG or WebP'),
      }),
    )
    .max(MOST_PICTURES, `more than ${MOST_PICTURES} pictures are not taken in here`)
    .optional(),
  meshes: z
    .array(
      z.looseObject({
        primitives: z
          .array(
            z.looseObject({
              attributes: z.record(z.string(), index),
              indices: index,
              mode: z.literal(4, 'only triangles are taken in here').default(4),
            }),
          )
          .min(1),
      }),
    )
    .min(1, 'the file holds no mesh'),
})

const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 }
/** Numbers of one element of each type (glTF 2.0, 3.6.2.3). */
export const COMPONENTS = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 }

type Meshes = readonly { primitives: readonly { attributes: Record<string, number>; indices?: number }[] }[]

/** Sees to it that all vertices of a file together can be held. @throws GlbError */
export function checkElements(
  accessors: readonly { count: number; type: keyof typeof COMPONENTS }[],
  meshes: Meshes,
): void {
  if (accessors.reduce((sum, { count }) => sum + count, 0) > MOST_ELEMENTS)
    throw new GlbError('accessors: more vertices than are taken in here')
  // Many primitives may name the same vertices; each is read by itself.
  let read = 0
  for (const { attributes, indices } of meshes.flatMap(({ primitives }) => primitives)) {
    for (const each of [...Object.values(attributes), ...(indices === undefined ? [] : [indices])]) {
      const accessor = accessors[each]
      if (!accessor) throw new GlbError(`meshes: there is no accessor ${each}`)
      read += (accessor.count * COMPONENTS[accessor.type]) / 3
    }
  }
  if (read > MOST_ELEMENTS) throw new GlbError('meshes: more vertices than are taken in here')
}

/** A binary glTF file's description and its data. */
export type GlbChunks = { json: GLTF.IGLTF; binary: Uint8Array }

/**
 * Checks that a binary glTF file carries what it claims, before anything is allocated for it.
 *
 * @returns what is in it
 * @throws GlbError with what is wrong
 */
export function checkGlb(bytes: Uint8Array): GlbChunks {
  const { json, binary } = readChunks(bytes, MOST_JSON)
  if (!binary) throw new GlbError('its data cannot be read')
  const binaryLength = binary.length
  const parsed = gltfSchema.safeParse(json)
  if (!parsed.success) {
    const { path, message } = parsed.error.issues[0]!
    throw new GlbError(path.length > 0 ? `${path.join('.')}: ${message}` : message)
  }
  const {
    buffers: [buffer],
    bufferViews,
    accessors,
    meshes,
  } = parsed.data
  if (buffer.byteLength > binaryLength) throw new GlbError('buffers.0: is longer than the file')
  bufferViews.forEach(({ byteOffset, byteLength }, i) => {
    if (byteOffset + byteLength > buffer.byteLength) throw new GlbError(`bufferViews.${i}: reaches beyond the buffer`)
  })
  accessors.forEach(({ bufferView, byteOffset, componentType, count, type }, i) => {
    const view = bufferViews[bufferView]
    if (!view) throw new GlbError(`accessors.${i}: there is no such part of the buffer`)
    const size = COMPONENT_BYTES[componentType]! * COMPONENTS[type]
    if (byteOffset + (count - 1) * (view.byteStride ?? size) + size > view.byteLength)
      throw new GlbError(`accessors.${i}: claims more than the file holds`)
  })
  checkElements(accessors, meshes)
  return { json: json as GLTF.IGLTF, binary }
}
