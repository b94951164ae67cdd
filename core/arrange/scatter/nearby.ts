import { BufferAttribute, BufferGeometry, DoubleSide, Matrix4, Ray, Vector3 } from 'three'
import type { HitPointInfo } from 'three-mesh-bvh'
import { MeshBVH } from 'three-mesh-bvh'
import type { Facets } from './facets'
import type { Around, Spot } from './limits/limit'
import type { Region } from './region'
import type { ScatterSite, Skin, SurfaceAt, ThingAt } from './site'
import { PLANE } from './site'

/** Trees over the triangles of shapes, made when first asked for and kept. */
export class SkinTrees {
  private readonly trees = new Map<string, MeshBVH[]>()

  constructor(readonly skinOf: (shape: string) => Skin | undefined) {}

  /** Lets go of all others. */
  keepOnly(shapes: ReadonlySet<string>): void {
    for (const shape of this.trees.keys()) if (!shapes.has(shape)) this.trees.delete(shape)
  }

  of(shape: string): MeshBVH[] {
    let found = this.trees.get(shape)
    if (!found)
      this.trees.set(
        shape,
        (found = (this.skinOf(shape) ?? [])
          .filter(({ indices }) => indices.length > 0)
          .map(({ positions, indices }) => treeOver(positions, indices))),
      )
    return found
  }
}

function treeOver(positions: ArrayLike<number>, indices: ArrayLike<number>): MeshBVH {
  const geometry = new BufferGeometry().setAttribute(
    'position',
    new BufferAttribute(
      positions instanceof Float32Array || positions instanceof Float64Array ? positions : Float64Array.from(positions),
      3,
    ),
  )
  return new MeshBVH(
    geometry.setIndex(new BufferAttribute(indices instanceof Uint32Array ? indices : Uint32Array.from(indices), 1)),
    { indirect: true },
  )
}

/** Something placed, made ready for distances and rays. */
class Placed {
  readonly min: Vector3
  readonly max: Vector3
  private readonly toOwn: Matrix4
  private readonly size: number
  private readonly trees: readonly MeshBVH[]

  constructor(shape: string, matrix: Matrix4, kept: SkinTrees) {
    const sizes = [0, 1, 2].map(axis => new Vector3().setFromMatrixColumn(matrix, axis).length())
    const isEven =
      Math.max(...sizes) - Math.min(...sizes) < 1e-9 * Math.max(...sizes)
      && Math.abs(Math.abs(matrix.determinant()) - sizes[0]! ** 3) < 1e-9 * sizes[0]! ** 3
    const trees = kept.of(shape)
    // Distances in axes of different sizes are not those of the world: such a thing gets a tree of its own there.
    this.trees = isEven
      ? trees
      : trees.map(tree => {
          const placed = new Float64Array(tree.geometry.getAttribute('position').array)
          for (let i = 0; i < placed.length; i += 3) point.fromArray(placed, i).applyMatrix4(matrix).toArray(placed, i)
          return treeOver(placed, tree.geometry.getIndex()!.array)
        })
    this.toOwn = isEven ? matrix.clone().invert() : new Matrix4()
    this.size = isEven ? sizes[0]! : 1
    this.min = new Vector3(Infinity, Infinity, Infinity)
    this.max = new Vector3(-Infinity, -Infinity, -Infinity)
    const back = this.toOwn.clone().invert()
    for (const { geometry } of this.trees) {
      const { array } = geometry.getAttribute('position')
      for (let i = 0; i < array.length; i += 3) {
        point.fromArray(array, i).applyMatrix4(back)
        this.min.min(point)
        this.max.max(point)
      }
    }
  }

  /** Metres from the box around it. */
  boxDistance({ x, y, z }: { x: number; y: number; z: number }): number {
    const beyond = (value: number, low: number, high: number) => Math.max(low - value, value - high, 0)
    return Math.hypot(
      beyond(x, this.min.x, this.max.x),
      beyond(y, this.min.y, this.max.y),
      beyond(z, this.min.z, this.max.z),
    )
  }

  /** Metres to its nearest triangle, or `most` if that is nearer. */
  distance({ x, y, z }: { x: number; y: number; z: number }, most: number): number {
    let least = most
    for (const tree of this.trees) {
      const found = tree.closestPointToPoint(point.set(x, y, z).applyMatrix4(this.toOwn), hit, 0, least / this.size)
      if (found) least = Math.min(least, found.distance * this.size)
    }
    return least
  }

  /** Whether anything of it lies straight above a place. */
  isAbove(x: number, y: number, z: number): boolean {
    if (x < this.min.x || x > this.max.x || z < this.min.z || z > this.max.z || y > this.max.y) return false
    ray.origin.set(x, y, z)
    ray.direction.set(0, 1, 0)
    ray.applyMatrix4(this.toOwn)
    return this.trees.some(tree => tree.raycastFirst(ray, DoubleSide) !== null)
  }
}

const [point, ray] = [new Vector3(), new Ray()]
const hit: HitPointInfo = { point: new Vector3(), distance: 0, faceIndex: 0 }

/** Metres above a surface from which on something counts as being over it. */
const CLEAR = 1e-4
/** Along each side of the plan that things are sorted into. */
const CELLS = 32

/** Things by where they are in plan, so that few are asked. */
class Crowd {
  private readonly cells: Placed[][] = []
  private readonly min = { x: Infinity, z: Infinity }
  private readonly step: { x: number; z: number }

  constructor(private readonly all: readonly Placed[]) {
    const max = { x: -Infinity, z: -Infinity }
    for (const placed of all) {
      this.min.x = Math.min(this.min.x, placed.min.x)
      this.min.z = Math.min(this.min.z, placed.min.z)
      max.x = Math.max(max.x, placed.max.x)
      max.z = Math.max(max.z, placed.max.z)
    }
    this.step = { x: (max.x - this.min.x) / CELLS || 1, z: (max.z - this.min.z) / CELLS || 1 }
    for (const placed of all)
      this.each(placed.min.x, placed.min.z, placed.max.x, placed.max.z, at => void (this.cells[at] ??= []).push(placed))
  }

  /** Metres to the nearest. */
  distance(spot: { x: number; y: number; z: number }, most: number): number {
    let least = most
    const near = new Set<Placed>()
    this.each(spot.x - most, spot.z - most, spot.x + most, spot.z + most, at =>
      this.cells[at]?.forEach(placed => near.add(placed)),
    )
    for (const placed of near.size < this.all.length ? near : this.all)
      if (placed.boxDistance(spot) < least) least = placed.distance(spot, least)
    return least
  }

  isOver(x: number, y: number, z: number): boolean {
    const [i, k] = [Math.floor((x - this.min.x) / this.step.x), Math.floor((z - this.min.z) / this.step.z)]
    const cell = this.cells[Math.min(Math.max(k, 0), CELLS - 1) * CELLS + Math.min(Math.max(i, 0), CELLS - 1)]
    return cell !== undefined && cell.some(placed => placed.isAbove(x, y + CLEAR, z))
  }

  private each(x0: number, z0: number, x1: number, z1: number, visit: (at: number) => void): void {
    const cell = (value: number, low: number, step: number) =>
      Math.min(Math.max(Math.floor((value - low) / step), 0), CELLS - 1)
    const [i0, i1] = [cell(x0, this.min.x, this.step.x), cell(x1, this.min.x, this.step.x)]
    const [k0, k1] = [cell(z0, this.min.z, this.step.z), cell(z1, this.min.z, this.step.z)]
    for (let k = k0; k <= k1; k++) for (let i = i0; i <= i1; i++) visit(k * CELLS + i)
  }
}

const placedOf = (things: readonly (ThingAt | SurfaceAt)[], trees: SkinTrees) =>
  things
    .filter(({ shape }) => shape !== PLANE)
    .map(({ shape, matrix }) => new Placed(shape, new Matrix4().fromArray(matrix as number[]), trees))

/** Whether a place on the surfaces is seen from above, past all of them. */
export function viewFromAbove(
  { surfaces }: ScatterSite,
  trees: SkinTrees,
): (x: number, y: number, z: number) => boolean {
  const crowd = new Crowd(placedOf(surfaces, trees))
  return (x, y, z) => !crowd.isOver(x, y, z)
}

/** What limits ask. Trees are made for those that are asked about alone. */
export function aroundOf({ things }: ScatterSite, facets: Facets, region: Region, trees: SkinTrees): Around {
  const crowds: (Crowd | undefined)[] = []
  let rim: MeshBVH | null | undefined
  return {
    edge: ({ x, y, z }: Spot, most) => {
      if (!region.isEmpty) return Math.min(Math.max(region.inwards(x, y, z), 0), most)
      rim ??= rimOf(facets)
      const found = rim?.closestPointToPoint(point.set(x, y, z), hit, 0, most)
      return found ? Math.min(found.distance, most) : most
    },
    things: (limit, spot, most) =>
      (crowds[limit] ??= new Crowd(placedOf(things[limit] ?? [], trees))).distance(spot, most),
  }
}

/** How far beyond a side it is looked for more surface, and how near that has to be, in metres. */
const BEYOND = 0.05
const CONTINUES = 0.04
/** A side is looked at in pieces no longer than this, as far as so many. */
const PIECE = 0.5
const MOST_PIECES = 64

/**
 * Where what copies stand on ends: pieces of the sides that only one facet has, where no other facet goes on beyond, be
 * it of the same thing or of another. As triangles without area, for a tree.
 */
function rimOf({ count, corners, surface, frames }: Facets): MeshBVH | null {
  const sides = new Map<string, readonly [Vector3, Vector3, Vector3] | null>()
  const all = new Float64Array(count * 9)
  const place = new Vector3()
  for (let f = 0; f < count; f++) {
    const rigid = new Matrix4().fromArray(frames[surface[f]!]!.rigid)
    const ends = [0, 3, 6].map(k => {
      place
        .fromArray(corners, f * 9 + k)
        .applyMatrix4(rigid)
        .toArray(all, f * 9 + k)
      return place.clone()
    })
    const names = ends.map(
      end =>
        `${surface[f]} ${end
          .toArray()
          .map(value => Math.round(value * 1e5))
          .join(' ')}`,
    )
    for (let k = 0; k < 3; k++) {
      const [a, b] = [names[k]!, names[(k + 1) % 3]!]
      const key = a < b ? `${a}/${b}` : `${b}/${a}`
      sides.set(key, sides.has(key) ? null : [ends[k]!, ends[(k + 1) % 3]!, ends[(k + 2) % 3]!])
    }
  }
  const whole = treeOver(
    all,
    Uint32Array.from({ length: count * 3 }, (_, i) => i),
  )
  const rim: number[] = []
  for (const side of sides.values()) {
    if (!side) continue
    const [a, b, third] = side
    const along = b.clone().sub(a)
    const out = a.clone().sub(third)
    out.addScaledVector(along, -out.dot(along) / along.lengthSq()).setLength(BEYOND)
    const pieces = Math.min(Math.ceil(along.length() / PIECE), MOST_PIECES)
    for (let i = 0; i < pieces; i++) {
      const [from, to] = [
        a.clone().addScaledVector(along, i / pieces),
        a.clone().addScaledVector(along, (i + 1) / pieces),
      ]
      // One in the same leaf of the tree may be found also where it is farther.
      if (
        (whole.closestPointToPoint(point.copy(from).lerp(to, 0.5).add(out), hit, 0, CONTINUES)?.distance ?? Infinity)
        <= CONTINUES
      )
        continue
      rim.push(...from.toArray(), ...to.toArray(), ...to.toArray())
    }
  }
  return rim.length === 0
    ? null
    : treeOver(
        Float64Array.from(rim),
        Uint32Array.from({ length: rim.length / 3 }, (_, i) => i),
      )
}
