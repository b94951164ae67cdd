import type { Matrix4 } from 'three'
import { bakeMesh } from '../mesh/bake-mesh'
import type { Mesh, Primitive } from '../mesh/mesh'
import { triangleCount } from '../mesh/mesh'
import type { Solid } from '../mesh/solid'
import { entriesOf, within } from './entries'
import type { LevelView } from './level-view'

/** Triangles of one part. */
export const MOST_TRIANGLES = 1_000_000

/** A level cannot become one mesh, with what to do instead. */
export class LevelMeshError extends Error {
  override name = 'LevelMeshError'
}

/**
 * All that a level shows as one mesh in the level's own axes: one primitive for each finish. What is hidden is left out, and so are
 * cameras, lights and markers, which have no shape. The same level always gives the same mesh.
 *
 * @param solidOf the mesh a shape names
 * @throws LevelMeshError if nothing is shown, or more than a part may have
 */
export function levelMesh(level: LevelView, solidOf: (shape: string) => Solid | undefined): Mesh {
  const shown: { solid: Solid, matrix: Matrix4 }[] = []
  let triangles = 0
  for (const id of inOrder(level)) {
    if (level.isHidden(id)) continue
    for (const entry of entriesOf(level, solidOf, id)) {
      for (const each of within(entry, () => true)) {
        triangles += triangleCount(each.solid.mesh)
        if (triangles > MOST_TRIANGLES) throw new LevelMeshError(`This has more than ${MOST_TRIANGLES.toLocaleString('en')} triangles, which is more than a part may have.`)
        // A matrix that takes all size away leaves nothing to be seen.
        if (Math.abs(each.matrix.determinant()) > FLAT) shown.push(each)
      }
    }
  }
  if (shown.length === 0) throw new LevelMeshError('Nothing of this has a shape that is shown.')
  return merged(shown.map(({ solid, matrix }) => bakeMesh(solid.mesh, matrix)))
}

const FLAT = 1e-15

/** All placements as they are listed: what a database answers has no order. */
function inOrder(level: LevelView): string[] {
  return level.children(null).flatMap(id => level.subtree(id))
}

/** Meshes as one, those of the same finish and with the same attributes together. */
export function merged(meshes: readonly Mesh[]): Mesh {
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
    ...first.uvs ? { uvs: first.uvs.map((_, set) => floats(alike.map(({ uvs }) => uvs![set]!))) } : {},
    ...first.colors ? { colors: floats(alike.map(({ colors }) => colors!)) } : {},
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
