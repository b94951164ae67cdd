import { Matrix3, Matrix4, Vector3 } from 'three'
import { hash3 } from '../../math/random'
import type { Skin, SurfaceAt } from './site'
import { PLANE } from './site'

/**
 * A surface's axes without its size: its own coordinates are in metres of the world, and stay what they are when it is
 * moved or turned.
 */
export type Frame = { rigid: Float64Array; toOwn: Float64Array }

/** Triangles that copies may stand on. */
export type Facets = {
  count: number
  /** Nine numbers for each: its corners in its surface's frame. */
  corners: Float64Array
  /** In square metres. */
  areas: Float64Array
  /** Three for each: its outward normal in the world, of unit length. */
  normals: Float64Array
  /** What names each for good. */
  names: Uint32Array
  /** The place of its surface in the list. */
  surface: Int32Array
  frames: readonly Frame[]
  surfaces: readonly SurfaceAt[]
}

/** Below this cosine a triangle does not count as seen from above. */
const EDGE_ON = 1e-4
/** Metres along each side of the squares that the ground plane is divided into. */
const TILE = 1024

/** A box in plan. */
export type PlanBox = { minX: number; minZ: number; maxX: number; maxZ: number }

/**
 * The triangles of surfaces.
 *
 * @param plan how much of the ground plane is needed
 * @param fromAbove only those that look up
 */
export function facetsOf(
  surfaces: readonly SurfaceAt[],
  skinOf: (shape: string) => Skin | undefined,
  seed: number,
  fromAbove: boolean,
  plan: PlanBox | null,
): Facets {
  const out = new FacetList()
  const frames = surfaces.map(({ matrix }) => frameOf(new Matrix4().fromArray(matrix as number[])))
  surfaces.forEach((surface, s) => {
    const first = hash3(seed, surface.stream, surface.below & 0xffff, surface.below >>> 16)
    if (surface.shape === PLANE) return plan && addTiles(out, s, first, plan)
    const world = new Matrix4().fromArray(surface.matrix as number[])
    const sizes = [0, 1, 2].map(axis => new Vector3().setFromMatrixColumn(world, axis).length())
    const normalMatrix = new Matrix3().getNormalMatrix(world)
    let name = 0
    for (const { positions, indices } of skinOf(surface.shape) ?? []) {
      for (let i = 0; i < indices.length; i += 3, name++) {
        const [a, b, c] = [0, 1, 2].map(
          k =>
            new Vector3(
              positions[indices[i + k]! * 3]!,
              positions[indices[i + k]! * 3 + 1]!,
              positions[indices[i + k]! * 3 + 2]!,
            ),
        ) as [Vector3, Vector3, Vector3]
        const normal = b.clone().sub(a).cross(c.clone().sub(a)).applyMatrix3(normalMatrix)
        const length = normal.length()
        if (!(length > 0)) continue
        normal.divideScalar(length)
        if (fromAbove && normal.y < EDGE_ON) continue
        for (const corner of [a, b, c]) corner.set(corner.x * sizes[0]!, corner.y * sizes[1]!, corner.z * sizes[2]!)
        out.add(s, a, b, c, normal, hash3(first, name, 0, 0), hash3(first, name, 1, 0), frames[s]!)
      }
    }
  })
  return { ...out.finish(), frames, surfaces }
}

function addTiles(out: FacetList, s: number, first: number, { minX, minZ, maxX, maxZ }: PlanBox): void {
  const normal = new Vector3(0, 1, 0)
  for (let i = Math.floor(minX / TILE); i * TILE < maxX; i++) {
    for (let k = Math.floor(minZ / TILE); k * TILE < maxZ; k++) {
      const corner = (x: number, z: number) => new Vector3((i + x) * TILE, 0, (k + z) * TILE)
      for (const half of [0, 1]) {
        const [a, b, c] =
          half === 0 ? [corner(0, 0), corner(0, 1), corner(1, 0)] : [corner(1, 1), corner(1, 0), corner(0, 1)]
        out.add(s, a, b, c, normal, hash3(first, i, k, half), hash3(first, i, k, half + 2), null)
      }
    }
  }
}

/** The axes of a surface that a matrix places, without its size. */
export function frameOf(world: Matrix4): Frame {
  const rigid = world.clone()
  for (let axis = 0; axis < 3; axis++) {
    const column = new Vector3().setFromMatrixColumn(world, axis)
    column.divideScalar(column.length() || 1)
    column.toArray(rigid.elements, axis * 4)
  }
  return { rigid: Float64Array.from(rigid.elements), toOwn: Float64Array.from(rigid.clone().invert().elements) }
}

class FacetList {
  private readonly corners: number[] = []
  private readonly areas: number[] = []
  private readonly normals: number[] = []
  private readonly names: number[] = []
  private readonly surface: number[] = []

  add(
    s: number,
    a: Vector3,
    b: Vector3,
    c: Vector3,
    normal: Vector3,
    first: number,
    second: number,
    frame: Frame | null,
  ): void {
    const [p, q] = [b.clone().sub(a), c.clone().sub(a)]
    // What a skewed frame does to an area is more than its size; of others the cross product is the same in the world.
    const area =
      frame && isSkewed(frame) ? turned(frame, p).cross(turned(frame, q)).length() / 2 : p.cross(q).length() / 2
    if (!(area > 0)) return
    this.corners.push(a.x, a.y, a.z, b.x, b.y, b.z, c.x, c.y, c.z)
    this.areas.push(area)
    this.normals.push(normal.x, normal.y, normal.z)
    this.names.push(first, second)
    this.surface.push(s)
  }

  finish() {
    return {
      count: this.areas.length,
      corners: Float64Array.from(this.corners),
      areas: Float64Array.from(this.areas),
      normals: Float64Array.from(this.normals),
      names: Uint32Array.from(this.names),
      surface: Int32Array.from(this.surface),
    }
  }
}

const turned = ({ rigid: e }: Frame, { x, y, z }: Vector3) =>
  new Vector3(e[0]! * x + e[4]! * y + e[8]! * z, e[1]! * x + e[5]! * y + e[9]! * z, e[2]! * x + e[6]! * y + e[10]! * z)

function isSkewed({ rigid: e }: Frame): boolean {
  return (
    Math.abs(e[0]! * e[4]! + e[1]! * e[5]! + e[2]! * e[6]!)
      + Math.abs(e[0]! * e[8]! + e[1]! * e[9]! + e[2]! * e[10]!)
      + Math.abs(e[4]! * e[8]! + e[5]! * e[9]! + e[6]! * e[10]!)
    > 1e-9
  )
}
