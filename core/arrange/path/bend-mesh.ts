import { Matrix4, Vector3 } from 'three'
import type { Mesh, Primitive } from '../../mesh/mesh'
import { bakeMesh } from '../../mesh/bake-mesh'
import type { Bend, Lifts } from './bend'
import { bendOnto, bendPlanes } from './bend'
import type { PathRule } from './rule'

/** A corner of a triangle, with what else its vertex has: texture coordinates and colour, one after another. */
type Corner = { point: Vector3; normal: Vector3; more: readonly number[] }

/** Metres, for the slope of the bend at a point. */
const STEP = 1e-4

/**
 * A mesh bent along a path. It is first cut across wherever the path turns, so that a box of twelve triangles follows
 * the curve; the pieces of a row share the curve's own axes where they meet, so that their ends do.
 *
 * @param index which piece of the path it becomes
 * @param placed from the mesh's axes to the arrangement's, where X runs along the piece
 * @param home from the axes the bent mesh is given in to the arrangement's
 * @param lifts lay it on the ground
 */
export function bendMesh(
  mesh: Mesh,
  rule: PathRule,
  index: number,
  placed: Matrix4,
  home: Matrix4,
  lifts: Lifts = [],
): Mesh {
  const bend = bendOnto(rule, index, lifts)
  const planes = bendPlanes(rule, index, lifts)
  const toHome = home.clone().invert()
  return {
    primitives: bakeMesh(mesh, placed).primitives.map(primitive => bendPrimitive(primitive, planes, bend, toHome)),
  }
}

function bendPrimitive(
  { material, positions, normals, indices, uvs = [], colors }: Primitive,
  planes: readonly number[],
  bend: Bend,
  toHome: Matrix4,
): Primitive {
  const points: number[] = []
  const directions: number[] = []
  const others: number[][] = []
  const found: number[] = []
  const known = new Map<string, number>()
  const bent = { point: new Vector3(), normal: new Vector3() }
  const vertexOf = (corner: Corner, leg: number): number => {
    const key = `${leg} ${corner.point.toArray().map(Math.fround).join()} ${[...corner.normal.toArray(), ...corner.more].map(Math.fround).join()}`
    let vertex = known.get(key)
    if (vertex === undefined) {
      known.set(key, (vertex = points.length / 3))
      bendCorner(corner, leg, bend, bent)
      points.push(...bent.point.applyMatrix4(toHome))
      directions.push(...bent.normal.transformDirection(toHome))
      others.push([...corner.more])
    }
    return vertex
  }
  const moreOf = (vertex: number) => [
    ...uvs.flatMap(uv => [uv[vertex * 2]!, uv[vertex * 2 + 1]!]),
    ...(colors?.subarray(vertex * 4, vertex * 4 + 4) ?? []),
  ]
  const corner = (i: number): Corner => ({
    point: new Vector3().fromArray(positions, indices[i]! * 3),
    normal: new Vector3().fromArray(normals, indices[i]! * 3),
    more: moreOf(indices[i]!),
  })
  for (let i = 0; i < indices.length; i += 3) {
    for (const polygon of slice([corner(i), corner(i + 1), corner(i + 2)], planes)) {
      const leg = bend.legOf(polygon.reduce((sum, { point }) => sum + point.x, 0) / polygon.length)
      for (let k = 2; k < polygon.length; k++)
        found.push(vertexOf(polygon[0]!, leg), vertexOf(polygon[k - 1]!, leg), vertexOf(polygon[k]!, leg))
    }
  }
  const column = (from: number, count: number) =>
    Float32Array.from(others.flatMap(more => more.slice(from, from + count)))
  return {
    material,
    positions: Float32Array.from(points),
    normals: Float32Array.from(directions),
    indices: Uint32Array.from(found),
    ...(uvs.length > 0 ? { uvs: uvs.map((_, i) => column(i * 2, 2)) } : {}),
    ...(colors ? { colors: column(uvs.length * 2, 4) } : {}),
  }
}

const [jx, jy, jz, ahead, aside, axes] = [
  new Vector3(),
  new Vector3(),
  new Vector3(),
  new Vector3(),
  new Vector3(),
  new Matrix4(),
]

/** Normals go through the cofactors of the bend's slope, as they do through those of a matrix. */
function bendCorner(
  { point, normal }: Pick<Corner, 'point' | 'normal'>,
  leg: number,
  bend: Bend,
  target: { point: Vector3; normal: Vector3 },
): void {
  bend.point(ahead.copy(point).setX(point.x + STEP), leg, { position: jx, axes })
  bend.point(aside.copy(point).setZ(point.z + STEP), leg, { position: jz, axes })
  bend.point(point, leg, { position: target.point, axes })
  jx.sub(target.point).divideScalar(STEP)
  jz.sub(target.point).divideScalar(STEP)
  jy.setFromMatrixColumn(axes, 1)
  target.normal
    .set(0, 0, 0)
    .addScaledVector(ahead.crossVectors(jy, jz), normal.x)
    .addScaledVector(ahead.crossVectors(jz, jx), normal.y)
    .addScaledVector(ahead.crossVectors(jx, jy), normal.z)
    .normalize()
}

/** A triangle in parts that each lie between two neighbouring planes across X. @param planes ascending */
function slice(triangle: Corner[], planes: readonly number[]): Corner[][] {
  let rest = triangle
  const parts: Corner[][] = []
  for (const x of planes) {
    if (rest.every(({ point }) => point.x >= x)) continue
    const before = clip(rest, x, 1)
    if (before.length > 2) parts.push(before)
    rest = clip(rest, x, -1)
    if (rest.length < 3) return parts
  }
  return [...parts, rest]
}

/** What of a polygon lies before a plane across X (`side` 1) or beyond it (-1). */
function clip(polygon: Corner[], x: number, side: 1 | -1): Corner[] {
  return polygon.flatMap((corner, i) => {
    const next = polygon[(i + 1) % polygon.length]!
    const [away, nextAway] = [(x - corner.point.x) * side, (x - next.point.x) * side]
    const kept = away >= 0 ? [corner] : []
    if (away * nextAway >= 0) return kept
    // From the same end whichever way round the edge is walked, so that neighbours are cut alike.
    const [from, to] = corner.point.x < next.point.x ? [corner, next] : [next, corner]
    const t = (x - from.point.x) / (to.point.x - from.point.x)
    return [
      ...kept,
      {
        point: from.point.clone().lerp(to.point, t).setX(x),
        normal: from.normal.clone().lerp(to.normal, t).normalize(),
        more: from.more.map((value, k) => value + (to.more[k]! - value) * t),
      },
    ]
  })
}
