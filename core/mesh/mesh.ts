import { Box3, Vector3 } from 'three'

/** A surface finish, in glTF's terms. Colours are linear RGB from 0 to 1. */
export type Material = {
  name: string
  baseColor: readonly [number, number, number]
  /** 0 is a mirror, 1 is chalk. */
  roughness: number
  metallic: number
  emissive: readonly [number, number, number]
  /** Below 1 it is seen through; 1 when left out. */
  opacity?: number
}

/** Single precision for what comes from files; double for blocks, which may be kilometres long: single is good to 0.2 mm at 4 km. */
export type Positions = Float32Array | Float64Array

/** Triangles of one material. Three floats a vertex, three indices a triangle, counter-clockwise from outside. */
export type Primitive = {
  material: Material
  positions: Positions
  normals: Float32Array
  indices: Uint32Array
}

/** A part's shape in metres, its pivot at the origin, its front towards +Z. */
export type Mesh = { primitives: Primitive[] }

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

/** A primitive's indices in two bytes each where its vertices are few enough; 65,535 itself is kept free (glTF 2.0, 3.7.2.1). */
export function compactIndices({ positions, indices }: Primitive): Uint16Array | Uint32Array {
  return positions.length / 3 <= 65535 ? Uint16Array.from(indices) : indices
}

export function triangleCount(mesh: Mesh): number {
  return mesh.primitives.reduce((sum, primitive) => sum + primitive.indices.length / 3, 0)
}

/** What the mesh takes in memory, in bytes: positions, normals and indices. */
export function meshBytes(mesh: Mesh): number {
  return mesh.primitives.reduce((sum, { positions, normals, indices }) => sum + positions.byteLength + normals.byteLength + indices.byteLength, 0)
}
