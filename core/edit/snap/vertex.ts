import { Matrix4, Vector3 } from 'three'
import { INTERSECTED, NOT_INTERSECTED } from 'three-mesh-bvh'
import type { Level } from '../../level/level'
import { featuresOf } from '../../mesh/features'
import { framePlanes } from '../../mesh/frame'
import type { Finder } from '../../scene/finder'
import type { Shown } from '../../scene/shown'
import { boxCorners } from '../../scene/shown'
import { pivotOf } from '../handles/pivot'
import type { Aim } from './aim'

/** What a vertex snap can catch. */
export const SNAP_POINT_KINDS = ['vertex', 'edge', 'face', 'pivot', 'box'] as const
export type SnapPointKind = (typeof SNAP_POINT_KINDS)[number]

/**
 * `foot`: where an edge is met at a right angle from the point that is measured from. `copy` is the copy it is of, if
 * it is of one.
 */
export type SnapPoint = { id: string; copy?: string; kind: SnapPointKind | 'foot'; point: Vector3 }

export const SNAP_POINT_NAMES: Record<SnapPoint['kind'], string> = {
  vertex: 'a corner',
  edge: 'the middle of an edge',
  face: 'the middle of a face',
  pivot: 'the pivot',
  box: 'a corner of the box',
  foot: 'the foot of the perpendicular on an edge',
}

/** How near a candidate has to be to the pointer, in pixels. */
const REACH = 14
/**
 * Pixels that a kind counts as farther away than it is: a corner of the mesh is meant where one is as near, or nearly.
 * A hand does not hit a pixel, and corners are what modular pieces meet at (common practice).
 */
const WEAKER: Record<SnapPoint['kind'], number> = { vertex: 0, box: 2, pivot: 4, foot: 5, edge: 6, face: 7 }

/**
 * The point of a thing nearest to the pointer: a corner of its mesh, the middle of an edge or of a flat face, its
 * pivot, or a corner of its box. Points hidden behind something are passed over, however many there are.
 *
 * @param accept leaves out the things it answers false for, also as something to be hidden behind
 * @param from a point of the world; the foot of the perpendicular from it on an edge is caught as well
 */
export function findSnapPoint(
  level: Level,
  index: Finder,
  aim: Aim,
  kinds: ReadonlySet<SnapPointKind>,
  accept: (id: string) => boolean,
  from: Vector3 | null = null,
): SnapPoint | null {
  const search = new SnapSearch(level, index, aim, kinds, accept, from)
  const things: { shown: Shown; least: number }[] = []
  index.across(framePlanes(aim.projection, aim.around(REACH)), shown => {
    if (!accept(shown.id)) return
    const { min, max } = shown.solid.bounds
    things.push({ shown, least: new Pixels(aim, shown.matrix).toBox(min, max) })
  })
  for (const { shown, least } of things.sort((a, b) => a.least - b.least)) search.look(shown, least)
  return search.best
}

/** How far places of one thing's own axes are from the pointer, in pixels. */
class Pixels {
  private readonly clip: Matrix4
  private readonly middle: readonly [number, number]
  private readonly pixel: readonly [number, number]

  constructor({ projection, around }: Aim, matrix: Matrix4) {
    this.clip = new Matrix4().multiplyMatrices(projection, matrix)
    const { x0, y0, x1, y1 } = around(1)
    this.middle = [(x0 + x1) / 2, (y0 + y1) / 2]
    this.pixel = [(x1 - x0) / 2, (y1 - y0) / 2]
  }

  /** Infinite behind the eye. */
  to({ x, y, z }: Vector3): number {
    const [across, up, w] = this.onScreen(x, y, z)
    return w > 0 ? Math.hypot(across, up) : Infinity
  }

  /** No farther than any place in a box. */
  toBox(min: Vector3, max: Vector3): number {
    let [left, right, low, high] = [Infinity, -Infinity, Infinity, -Infinity]
    for (let corner = 0; corner < 8; corner++) {
      const [across, up, w] = this.onScreen(
        corner & 1 ? max.x : min.x,
        corner & 2 ? max.y : min.y,
        corner & 4 ? max.z : min.z,
      )
      if (w <= 0) return 0
      left = Math.min(left, across)
      right = Math.max(right, across)
      low = Math.min(low, up)
      high = Math.max(high, up)
    }
    return Math.hypot(Math.max(left, 0, -right), Math.max(low, 0, -high))
  }

  private onScreen(x: number, y: number, z: number): readonly [number, number, number] {
    const { elements: e } = this.clip
    const w = e[3]! * x + e[7]! * y + e[11]! * z + e[15]!
    return [
      ((e[0]! * x + e[4]! * y + e[8]! * z + e[12]!) / w - this.middle[0]) / this.pixel[0],
      ((e[1]! * x + e[5]! * y + e[9]! * z + e[13]!) / w - this.middle[1]) / this.pixel[1],
      w,
    ]
  }
}

/**
 * Looks through things for the best point that is seen, the nearest to the pointer first, so that most is never looked
 * at.
 */
class SnapSearch {
  best: SnapPoint | null = null
  /** Of the best so far: pixels from the pointer, and what its kind adds. */
  private rank = Infinity
  /** Triangles that hid a point; the next one is mostly behind the same. */
  private readonly before: Triangle[] = []

  constructor(
    private readonly level: Level,
    private readonly index: Finder,
    private readonly aim: Aim,
    private readonly kinds: ReadonlySet<SnapPointKind>,
    private readonly accept: (id: string) => boolean,
    private readonly from: Vector3 | null,
  ) {}

  /** @param least no place of it is nearer to the pointer, in pixels */
  look({ id, copy, solid, matrix }: Shown, least: number): void {
    if (!this.isNear(least)) return
    const { kinds } = this
    const pixels = new Pixels(this.aim, matrix)
    /** Places found to be hidden: a mesh has most of them several times. */
    const hidden = new Set<string>()
    const offer = (kind: SnapPointKind | 'foot', point: Vector3) => {
      const distance = pixels.to(point)
      const rank = distance + WEAKER[kind]
      if (distance > REACH || rank >= this.rank) return
      const key = `${point.x} ${point.y} ${point.z}`
      if (hidden.has(key)) return
      const inWorld = point.clone().applyMatrix4(matrix)
      if (!this.isSeen(inWorld)) hidden.add(key)
      else [this.best, this.rank] = [{ id, copy, kind, point: inWorld }, rank]
    }
    // The pivots of a level around are nobody's.
    if (kinds.has('pivot') && this.level.has(copy ?? id))
      offer('pivot', pivotOf(this.level, copy ?? id).applyMatrix4(matrix.clone().invert()))
    if (kinds.has('box')) for (const corner of boxCorners(solid.bounds)) offer('box', corner)
    if (!kinds.has('vertex') && !kinds.has('edge') && !kinds.has('face')) return
    solid.trees.forEach((tree, i) => {
      tree.shapecast({
        boundsTraverseOrder: ({ min, max }) => pixels.toBox(min, max),
        intersectsBounds: (_box, _isLeaf, distance) => (this.isNear(distance!) ? INTERSECTED : NOT_INTERSECTED),
        intersectsTriangle: (triangle, number) => {
          const corners = [triangle.a, triangle.b, triangle.c]
          if (kinds.has('vertex')) for (const corner of corners) offer('vertex', corner)
          if (!kinds.has('edge') && !kinds.has('face')) return
          const { edges, faces, middles } = featuresOf(solid.mesh.primitives[i]!)
          if (kinds.has('edge')) {
            corners.forEach((corner, k) => {
              if (!(edges[number]! & (1 << k))) return
              const next = corners[(k + 1) % 3]!
              offer('edge', middle.lerpVectors(corner, next, 0.5))
              const share = this.from && footShare(this.from, corner, next, matrix)
              if (share) offer('foot', middle.lerpVectors(corner, next, share))
            })
          }
          if (kinds.has('face')) offer('face', middles[faces[number]!]!)
        },
      })
    })
  }

  /** Whether something this near to the pointer could still be better than the best. */
  private isNear(distance: number): boolean {
    return distance <= REACH && distance < this.rank
  }

  private isSeen(point: Vector3): boolean {
    const sight = this.aim.sightTo(point)
    const clear = sight.origin.distanceTo(point) * (1 - 1e-3) - 1e-3
    for (const [i, [a, b, c]] of this.before.entries()) {
      if (!sight.intersectTriangle(a, b, c, false, onTriangle) || onTriangle.distanceTo(sight.origin) >= clear) continue
      if (i > 0) this.before.unshift(...this.before.splice(i, 1))
      return false
    }
    const hit = this.index.raycast(sight, this.accept)
    if (!hit || hit.distance >= clear) return true
    this.before.unshift(hit.triangle)
    if (this.before.length > MOST_BEFORE) this.before.pop()
    return false
  }
}

/**
 * Where along a side, from 0 to 1, the foot of the perpendicular from a point of the world is; null if beyond its ends.
 */
function footShare(from: Vector3, a: Vector3, b: Vector3, matrix: Matrix4): number | null {
  const start = a.clone().applyMatrix4(matrix)
  const way = b.clone().applyMatrix4(matrix).sub(start)
  const share = from.clone().sub(start).dot(way) / way.lengthSq()
  return share > 0 && share < 1 ? share : null
}

type Triangle = readonly [Vector3, Vector3, Vector3]

/** Triangles remembered as hiding something; more would take longer to try than to look for a new one. */
const MOST_BEFORE = 8
const [middle, onTriangle] = [new Vector3(), new Vector3()]
