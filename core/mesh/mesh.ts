import { Box3, Vector3 } from 'three'
import type { Texture, TextureSlot } from './texture'
import { TEXTURE_SLOTS } from './texture'

/** A surface finish, in glTF's terms. Colours are linear RGB from 0 to 1. */
export type Material = {
  name: string
  baseColor: readonly [number, number, number]
  /** 0 is a mirror, 1 is chalk. */
  roughness: number
  metallic: number
  emissive: readonly [number, number, number]
  /** It is seen through by that much; opaque when left out. */
  opacity?: number
  /** It is there where it is at least this opaque, and not there elsewhere. */
  cutoff?: number
  /** Its triangles are seen from both sides. */
  doubleSided?: true
  textures?: Partial<Record<TextureSlot, Texture>>
}

/**
 * Single precision for what comes from files; double for blocks, which may be kilometres long: single is good to 0.2 mm
 * at 4 km.
 */
export type Positions = Float32Array | Float64Array

/** Triangles of one material. Three floats a vertex, three indices a triangle, counter-clockwise from outside. */
export type Primitive = {
  material: Material
  positions: Positions
  normals: Float32Array
  indices: Uint32Array
  /** Sets of texture coordinates, two floats a vertex; V grows downwards, as in glTF. None when left out. */
  uvs?: readonly Float32Array[]
  /** Linear red, green, blue and opacity of each vertex, by which the material's are multiplied. */
  colors?: Float32Array
}

/** A part's shape in metres, its pivot at the origin, its front towards +Z. */
export type Mesh = { primitives: Primitive[] }

/** Triangles that one part may have. */
export const MOST_TRIANGLES = 1_000_000

/** The smallest box around the mesh in its own axes; empty for a mesh without vertices. */
export function meshBounds(mesh: Mesh): Box3 {
  const box = new Box3()
  const point = new Vector3()
  for (const { positions } of mesh.primitives) {
    for (let i = 0; i < positions.length; i += 3) box.expandByPoint(point.fromArray(positions, i))
  }
  return box
}

/** A primitive's positions as they are drawn and written to files. */
export function singlePositions({ positions }: Primitive): Float32Array {
  return positions instanceof Float32Array ? positions : Float32Array.from(positions)
}

/**
 * A primitive's indices in two bytes each where its vertices are few enough; 65,535 itself is kept free (glTF 2.0,
 * 3.7.2.1).
 */
export function compactIndices({ positions, indices }: Primitive): Uint16Array | Uint32Array {
  return positions.length / 3 <= 65535 ? Uint16Array.from(indices) : indices
}

export function triangleCount(mesh: Mesh): number {
  return mesh.primitives.reduce((sum, primitive) => sum + primitive.indices.length / 3, 0)
}

/** What the mesh takes in memory, in bytes, without its textures. */
export function meshBytes(mesh: Mesh): number {
  return mesh.primitives.reduce((sum, { positions, normals, indices, uvs = [], colors }) => {
    return (
      sum
      + positions.byteLength
      + normals.byteLength
      + indices.byteLength
      + uvs.reduce((bytes, { byteLength }) => bytes + byteLength, 0)
      + (colors?.byteLength ?? 0)
    )
  }, 0)
}

/** A material's textures. */
function texturesOf({ textures = {} }: Material): Texture[] {
  return TEXTURE_SLOTS.flatMap(slot => textures[slot] ?? [])
}

/** The pictures that a mesh's textures show, by their names, each once. */
export function picturesOf(mesh: Mesh): Set<string> {
  return new Set(mesh.primitives.flatMap(({ material }) => texturesOf(material).map(({ picture }) => picture)))
}
