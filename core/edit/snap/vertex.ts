import type { Matrix4 } from 'three'
import { Vector3 } from 'three'
import { CONTAINED, INTERSECTED, NOT_INTERSECTED } from 'three-mesh-bvh'
import { boxAgainstPlanes, framePlanes } from '../../mesh/frame'
import type { PlaneEquation } from '../../mesh/frame'
import type { LevelIndex } from '../../scene/level-index'
import type { Shown } from '../../scene/shown'
import { boxCorners } from '../../scene/shown'
import type { Level } from '../../level/level'
import type { Aim } from './aim'
import { featuresOf } from '../../mesh/features'

/** What a vertex snap can catch. */
export const SNAP_POINT_KINDS = ['vertex', 'edge', 'face', 'pivot', 'box'] as const
export type SnapPointKind = (typeof SNAP_POINT_KINDS)[number]

export type SnapPoint = { id: string, kind: SnapPointKind, point: Vector3 }

/** How near a candidate has to be to the pointer, in pixels. */
const REACH = 14
/** A stronger kind wins over a weaker one that is nearer to the pointer by no more than this, in pixels. */
const TIE = 3
/** How many of the nearest candidates are looked at for being hidden. */
const TRIES = 8

/** How many things near the pointer's line of sight are looked at. */
const MOST_THINGS = 48

type Candidate = SnapPoint & { distance: number }

/**
 * The point of a thing nearest to the pointer: a corner of its mesh, the middle of an edge or of a flat face, its pivot, or a
 * corner of its box. Points hidden behind something are passed over.
 *
 * @param accept leaves out the things it answers false for, also as something to be hidden behind
 */
export function findSnapPoint(level: Level, index: LevelIndex, aim: Aim, kinds: ReadonlySet<SnapPointKind>, accept: (id: string) => boolean): SnapPoint | null {
  const planes = [...framePlanes(aim.projection, aim.around(REACH)), behindSurface(index, aim, accept)]
  const candidates: Candidate[] = []
  const offer = (id: string, kind: SnapPointKind, point: Vector3) => {
    const seen = aim.project(point)
    const distance = seen ? Math.hypot(seen.x - aim.at.x, seen.y - aim.at.y) : Infinity
    if (distance <= REACH) candidates.push({ id, kind, point, distance })
  }
  for (const shown of nearestThings(index, aim, planes, accept)) offerPointsOf(level, shown, planes, kinds, offer)
  candidates.sort((a, b) => rank(a) - rank(b))
  return candidates.slice(0, TRIES).find(({ point }) => isSeen(index, aim, point, accept)) ?? null
}

/** What reaches into the planes, the nearest first; of a crowd far off not all of it. */
function nearestThings(index: LevelIndex, { ray }: Aim, planes: readonly PlaneEquation[], accept: (id: string) => boolean): Shown[] {
  const found: { shown: Shown, distance: number }[] = []
  index.across(planes, (shown) => {
    if (accept(shown.id)) found.push({ shown, distance: shown.solid.bounds.getCenter(middle).applyMatrix4(shown.matrix).distanceToSquared(ray.origin) })
  })
  return found.sort((a, b) => a.distance - b.distance).slice(0, MOST_THINGS).map(({ shown }) => shown)
}

const middle = new Vector3()

function rank({ distance, kind }: Candidate): number {
  return distance + SNAP_POINT_KINDS.indexOf(kind) * TIE / SNAP_POINT_KINDS.length
}

function offerPointsOf(level: Level, { id, solid, matrix }: Shown, planes: readonly PlaneEquation[], kinds: ReadonlySet<SnapPointKind>, offer: (id: string, kind: SnapPointKind, point: Vector3) => void): void {
  const world = (point: Vector3) => point.clone().applyMatrix4(matrix)
  if (kinds.has('pivot')) offer(id, 'pivot', world(new Vector3(...level.need(id).pivot)))
  if (kinds.has('box')) for (const corner of boxCorners(solid.bounds)) offer(id, 'box', corner.applyMatrix4(matrix))
  if (!kinds.has('vertex') && !kinds.has('edge') && !kinds.has('face')) return
  const local = planes.map(plane => planeInside(plane, matrix))
  solid.trees.forEach((tree, i) => {
    tree.shapecast({
      intersectsBounds: ({ min, max }) => {
        const where = boxAgainstPlanes(local, [min.x, min.y, min.z, max.x, max.y, max.z])
        return where === 'outside' ? NOT_INTERSECTED : where === 'inside' ? CONTAINED : INTERSECTED
      },
      intersectsTriangle: (triangle, number) => {
        const corners = [triangle.a, triangle.b, triangle.c]
        if (kinds.has('vertex')) for (const corner of corners) offer(id, 'vertex', world(corner))
        if (!kinds.has('edge') && !kinds.has('face')) return
        const { edges, faces, middles } = featuresOf(solid.mesh.primitives[i]!)
        if (kinds.has('edge')) {
          corners.forEach((corner, k) => {
            if (edges[number]! & 1 << k) offer(id, 'edge', world(corner.clone().lerp(corners[(k + 1) % 3]!, 0.5)))
          })
        }
        if (kinds.has('face')) offer(id, 'face', world(middles[faces[number]!]!))
      },
    })
  })
}

/** A plane of the world in the axes a matrix maps from: planes go through its transpose. */
function planeInside([a, b, c, d]: PlaneEquation, { elements: e }: Matrix4): PlaneEquation {
  return [
    a * e[0]! + b * e[1]! + c * e[2]!,
    a * e[4]! + b * e[5]! + c * e[6]!,
    a * e[8]! + b * e[9]! + c * e[10]!,
    a * e[12]! + b * e[13]! + c * e[14]! + d,
  ]
}

/** Keeps out what lies well behind the surface under the pointer: most of it is hidden, and there may be a whole level of it. */
function behindSurface(index: LevelIndex, { ray }: Aim, accept: (id: string) => boolean): PlaneEquation {
  const hit = index.raycast(ray, accept)
  const { x, y, z } = ray.direction
  const farthest = hit ? hit.distance * 1.05 + 0.5 : 1e9
  return [-x, -y, -z, farthest + ray.origin.dot(ray.direction)]
}

function isSeen(index: LevelIndex, { sightTo }: Aim, point: Vector3, accept: (id: string) => boolean): boolean {
  const sight = sightTo(point)
  const hit = index.raycast(sight, accept)
  return !hit || hit.distance >= sight.origin.distanceTo(point) * (1 - 1e-3) - 1e-3
}
