import { FARTHEST } from '../math/farthest'
import type { Mesh, Primitive } from './mesh'
import { MOST_TRIANGLES, triangleCount } from './mesh'

/**
 * What keeps a mesh from being a part's, in words; null if nothing does. Whatever door a mesh comes through, brought
 * in, made, made anew, baked or from a level file, it is looked at by this before it is stored.
 */
export function meshProblem(mesh: Mesh): string | null {
  const triangles = triangleCount(mesh)
  if (triangles === 0) return 'there are no triangles in it'
  if (triangles > MOST_TRIANGLES)
    return `it has more than the ${MOST_TRIANGLES.toLocaleString('en')} triangles that a part may have`
  if (mesh.primitives.length > MOST_PRIMITIVES)
    return `it has more than ${MOST_PRIMITIVES.toLocaleString('en')} pieces, each of which is drawn by itself`
  for (const primitive of mesh.primitives) {
    const problem = primitiveProblem(primitive)
    if (problem) return problem
  }
  return null
}

/** Each is one call of the renderer, wherever the part is shown. */
const MOST_PRIMITIVES = 1000

function primitiveProblem({ positions, normals, indices, uvs = [], colors }: Primitive): string | null {
  const count = positions.length / 3
  if (
    indices.length % 3 !== 0
    || normals.length !== positions.length
    || uvs.some(({ length }) => length !== count * 2)
    || (colors && colors.length !== count * 4)
  )
    return 'its lists are not of one length'
  for (const value of positions) if (!(Math.abs(value) <= FARTHEST)) return 'a vertex is nowhere, or too far away'
  for (const list of [normals, ...uvs, ...(colors ? [colors] : [])])
    for (const value of list)
      if (!Number.isFinite(value)) return 'a normal, a texture coordinate or a colour is no number'
  for (const vertex of indices) if (vertex >= count) return 'a triangle names a vertex that is not there'
  return null
}
