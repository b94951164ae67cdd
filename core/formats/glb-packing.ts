import { Quaternion, Vector3 } from 'three'
import type { Mesh, Primitive } from '../mesh/mesh'
import { meshBounds, singlePositions } from '../mesh/mesh'
import type { Instances } from './out/scene-file'

// How the numbers of a binary glTF file are made smaller.

export const COMPRESSIONS = ['none', 'meshopt', 'draco'] as const

/** How numbers are written: as they are, or compressed; and in as many bits as each needs, or in few. */
export type Packing = { compression: (typeof COMPRESSIONS)[number]; quantised: boolean }

/** What compresses; those of the compression that is asked for are needed. */
export type Encoders = { meshopt?: MeshoptEncoder; draco?: DracoModule }

/** Of the library meshoptimizer. */
export type MeshoptEncoder = {
  ready: Promise<void>
  encodeGltfBuffer: (source: Uint8Array, count: number, size: number, mode: string) => Uint8Array
}

/** Of the library draco3dgltf. */
export type DracoModule = {
  Encoder: new () => DracoEncoder
  MeshBuilder: new () => DracoBuilder
  Mesh: new () => object
  DracoInt8Array: new () => { GetValue: (at: number) => number }
  POSITION: number
  NORMAL: number
  TEX_COORD: number
  COLOR: number
  GENERIC: number
  MESH_SEQUENTIAL_ENCODING: number
  destroy: (object: object) => void
}
type DracoEncoder = {
  SetEncodingMethod: (method: number) => void
  SetAttributeQuantization: (attribute: number, bits: number) => void
  EncodeMeshToDracoBuffer: (mesh: object, out: object) => number
}
type DracoBuilder = {
  AddFacesToMesh: (mesh: object, count: number, faces: Uint32Array) => void
  AddFloatAttributeToMesh: (mesh: object, type: number, count: number, size: number, values: Float32Array) => number
}

/** A grid of 65,536 steps each way in which a mesh's positions are counted: from `offset`, over `size` metres. */
export type PositionGrid = { offset: Vector3; size: number }

export function gridOf(mesh: Mesh): PositionGrid {
  const box = meshBounds(mesh)
  const { x, y, z } = box.getSize(new Vector3())
  return { offset: box.min, size: Math.max(x, y, z) || 1 }
}

const STEPS = 65535

/**
 * Positions counted in a grid: two bytes a number, eight a vertex. The three least and the three most, as they are
 * written.
 */
export function gridPositions(
  { positions }: Primitive,
  { offset, size }: PositionGrid,
): { array: Uint16Array; bounds: { min: number[]; max: number[] } } {
  const count = positions.length / 3
  const array = new Uint16Array(count * 4)
  const from = offset.toArray()
  const bounds = { min: [STEPS, STEPS, STEPS], max: [0, 0, 0] }
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < 3; k++) {
      const value = Math.round(((positions[i * 3 + k]! - from[k]!) / size) * STEPS)
      array[i * 4 + k] = value
      bounds.min[k] = Math.min(bounds.min[k]!, value)
      bounds.max[k] = Math.max(bounds.max[k]!, value)
    }
  }
  return { array, bounds }
}

/** Normals in one byte a number, four a vertex: within half a degree. */
export function byteNormals({ normals }: Primitive): Int8Array {
  return Int8Array.from({ length: (normals.length / 3) * 4 }, (_, i) =>
    i % 4 === 3 ? 0 : Math.round(Math.max(-1, Math.min(1, normals[(i >> 2) * 3 + (i % 4)]!)) * 127),
  )
}

/** Colours in one byte a number. */
export const byteColors = (colors: Float32Array) =>
  Uint8Array.from(colors, value => Math.round(Math.max(0, Math.min(1, value)) * 255))

/** The same places for a mesh that is counted in a grid. */
export function instancesInGrid(
  { translations, rotations, scales, copies }: Instances,
  { offset, size }: PositionGrid,
): Instances {
  const [moved, sized] = [translations.slice(), scales.slice()]
  const [shift, turn, scale] = [new Vector3(), new Quaternion(), new Vector3()]
  for (let i = 0; i < copies.length; i++) {
    shift
      .copy(offset)
      .multiply(scale.fromArray(scales, i * 3))
      .applyQuaternion(turn.fromArray(rotations, i * 4))
    for (let k = 0; k < 3; k++) {
      moved[i * 3 + k]! += shift.getComponent(k)
      sized[i * 3 + k]! *= size
    }
  }
  return { translations: moved, rotations, scales: sized, copies }
}

/** Bits of each kind of number in what Draco quantises (common practice). */
const DRACO_BITS = { position: 14, normal: 10, uv: 12, color: 8 }

/**
 * A primitive as Draco compresses it, its vertices in their order, and under which number each of its attributes lies
 * in there.
 */
export function dracoPrimitive(
  draco: DracoModule,
  primitive: Primitive,
  quantised: boolean,
): { bytes: Uint8Array; attributes: Record<string, number> } {
  const { normals, indices, uvs = [], colors } = primitive
  const positions = singlePositions(primitive)
  const count = positions.length / 3
  const [encoder, builder, mesh, out] = [
    new draco.Encoder(),
    new draco.MeshBuilder(),
    new draco.Mesh(),
    new draco.DracoInt8Array(),
  ]
  try {
    builder.AddFacesToMesh(mesh, indices.length / 3, indices)
    const attributes: Record<string, number> = {
      POSITION: builder.AddFloatAttributeToMesh(mesh, draco.POSITION, count, 3, positions),
      NORMAL: builder.AddFloatAttributeToMesh(mesh, draco.NORMAL, count, 3, normals),
    }
    for (const [set, uv] of uvs.entries())
      attributes[`TEXCOORD_${set}`] = builder.AddFloatAttributeToMesh(mesh, draco.TEX_COORD, count, 2, uv)
    if (colors) attributes.COLOR_0 = builder.AddFloatAttributeToMesh(mesh, draco.COLOR, count, 4, colors)
    encoder.SetEncodingMethod(draco.MESH_SEQUENTIAL_ENCODING)
    if (quantised) {
      encoder.SetAttributeQuantization(draco.POSITION, DRACO_BITS.position)
      encoder.SetAttributeQuantization(draco.NORMAL, DRACO_BITS.normal)
      encoder.SetAttributeQuantization(draco.TEX_COORD, DRACO_BITS.uv)
      encoder.SetAttributeQuantization(draco.COLOR, DRACO_BITS.color)
    }
    const length = encoder.EncodeMeshToDracoBuffer(mesh, out)
    if (length <= 0) throw new RangeError('a mesh could not be compressed by Draco')
    return { bytes: Uint8Array.from({ length }, (_, i) => out.GetValue(i)), attributes }
  } finally {
    for (const object of [encoder, builder, mesh, out]) draco.destroy(object)
  }
}
