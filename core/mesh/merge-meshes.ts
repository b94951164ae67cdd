import type { Mesh, Primitive } from './mesh'

/** Meshes as one, those of the same finish and with the same attributes together. */
export function mergeMeshes(meshes: readonly Mesh[]): Mesh {
  const byFinish = new Map<string, Primitive[]>()
  for (const { primitives } of meshes) {
    for (const primitive of primitives) {
      const key = JSON.stringify([primitive.material, primitive.uvs?.length ?? 0, primitive.colors !== undefined])
      const alike = byFinish.get(key)
      if (alike) alike.push(primitive)
      else byFinish.set(key, [primitive])
    }
  }
  return { primitives: [...byFinish.values()].map(joined) }
}

function joined(alike: readonly Primitive[]): Primitive {
  const [first] = alike as [Primitive]
  const indices = new Uint32Array(alike.reduce((sum, each) => sum + each.indices.length, 0))
  let [at, before] = [0, 0]
  for (const each of alike) {
    for (const index of each.indices) indices[at++] = index + before
    before += each.positions.length / 3
  }
  return {
    material: first.material,
    positions: floats(alike.map(({ positions }) => positions)),
    normals: floats(alike.map(({ normals }) => normals)),
    indices,
    ...(first.uvs ? { uvs: first.uvs.map((_, set) => floats(alike.map(({ uvs }) => uvs![set]!))) } : {}),
    ...(first.colors ? { colors: floats(alike.map(({ colors }) => colors!)) } : {}),
  }
}

function floats(arrays: readonly (Float32Array | Float64Array)[]): Float32Array {
  const all = new Float32Array(arrays.reduce((sum, { length }) => sum + length, 0))
  let at = 0
  for (const array of arrays) {
    all.set(array, at)
    at += array.length
  }
  return all
}
