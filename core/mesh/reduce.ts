import { MeshoptSimplifier } from 'meshoptimizer'
import { Vector3 } from 'three'
import type { Mesh, Primitive } from './mesh'
import { singlePositions, triangleCount } from './mesh'
import { Solid } from './solid'

export type Reduced = {
  mesh: Mesh
  /** How far the surfaces lie apart at most, in metres, as measured at corners and middles of both. */
  error: number
}

/**
 * How much a normal or a texture coordinate that is off by one counts, in parts of the mesh's size (common practice).
 */
const WEIGHTS = { normal: 0.5, uv: 1 }

/**
 * A mesh with fewer triangles that looks as alike as it can: edges are collapsed by quadric errors (Garland and
 * Heckbert 1997, as in the library meshoptimizer), also across seams where nothing else is left.
 *
 * @param triangles at most so many, if they can be reached; each finish keeps its share
 */
export async function reduceMesh(mesh: Mesh, triangles: number): Promise<Reduced> {
  await MeshoptSimplifier.ready
  const all = triangleCount(mesh)
  if (all <= triangles) return { mesh, error: 0 }
  const reduced = {
    primitives: mesh.primitives
      .map(primitive => reducePrimitive(primitive, triangles / all))
      .filter(({ indices }) => indices.length > 0),
  }
  return { mesh: reduced, error: distanceApart(mesh, reduced) }
}

function reducePrimitive(primitive: Primitive, share: number): Primitive {
  const { normals, indices, uvs = [] } = primitive
  const positions = singlePositions(primitive)
  const target = Math.floor((indices.length / 3) * share) * 3
  const [uv] = uvs
  const stride = uv ? 5 : 3
  const attributes = new Float32Array((positions.length / 3) * stride)
  for (let i = 0; i < positions.length / 3; i++) {
    attributes.set(normals.subarray(i * 3, i * 3 + 3), i * stride)
    if (uv) attributes.set(uv.subarray(i * 2, i * 2 + 2), i * stride + 3)
  }
  const weights = [WEIGHTS.normal, WEIGHTS.normal, WEIGHTS.normal, ...(uv ? [WEIGHTS.uv, WEIGHTS.uv] : [])]
  const [kept] = MeshoptSimplifier.simplifyWithAttributes(
    indices,
    positions,
    3,
    attributes,
    stride,
    weights,
    null,
    target,
    1,
    ['Permissive', 'Prune'],
  )
  return compacted(primitive, kept)
}

/** Only the vertices that some triangles use. */
function compacted(primitive: Primitive, indices: Uint32Array): Primitive {
  const { material, normals, uvs, colors } = primitive
  const positions = singlePositions(primitive)
  const places = new Map<number, number>()
  const renamed = indices.map(vertex => {
    const known = places.get(vertex)
    if (known !== undefined) return known
    places.set(vertex, places.size)
    return places.size - 1
  })
  const vertices = [...places.keys()]
  const some = (from: Float32Array, size: number) => {
    const out = new Float32Array(vertices.length * size)
    vertices.forEach((vertex, i) => out.set(from.subarray(vertex * size, vertex * size + size), i * size))
    return out
  }
  return {
    material,
    positions: some(positions, 3),
    normals: some(normals, 3),
    indices: renamed,
    ...(uvs ? { uvs: uvs.map(uv => some(uv, 2)) } : {}),
    ...(colors ? { colors: some(colors, 4) } : {}),
  }
}

/** Triangles of a mesh that are looked at; of more, so many spread over all of them, and half as much again is said. */
const MOST_LOOKED_AT = 20_000
const UNSEEN = 1.5

/**
 * How far two meshes lie apart at most (Hausdorff), looked at where each has corners, and middles of edges and faces.
 */
function distanceApart(a: Mesh, b: Mesh): number {
  if (triangleCount(a) === 0 || triangleCount(b) === 0) return Infinity
  return Math.max(farthestFrom(a, new Solid(b)), farthestFrom(b, new Solid(a)))
}

function farthestFrom({ primitives }: Mesh, solid: Solid): number {
  let farthest = 0
  const [a, b, c, point] = [new Vector3(), new Vector3(), new Vector3(), new Vector3()]
  const look = (at: Vector3) => {
    farthest = Math.max(farthest, solid.distanceTo(at))
  }
  const every = Math.ceil(triangleCount({ primitives }) / MOST_LOOKED_AT)
  for (const { positions, indices } of primitives) {
    for (let i = 0; i < indices.length; i += 3 * every) {
      a.fromArray(positions, indices[i]! * 3)
      b.fromArray(positions, indices[i + 1]! * 3)
      c.fromArray(positions, indices[i + 2]! * 3)
      look(a)
      look(point.addVectors(a, b).multiplyScalar(0.5))
      look(point.addVectors(b, c).multiplyScalar(0.5))
      look(point.addVectors(c, a).multiplyScalar(0.5))
      look(point.addVectors(a, b).add(c).divideScalar(3))
    }
  }
  return every > 1 ? farthest * UNSEEN : farthest
}
