import type { Matrix4 } from 'three'
import { Matrix3, Ray, Vector3 } from 'three'
import type { Finder } from '../scene/finder'
import type { LevelHit } from '../scene/level-index'
import { movingWith } from '../scene/copies'
import { copyOf } from '../scene/copy-id'
import type { Standing, Surfaces } from './standing'
import { thingOf } from './standing'

// How far things reach, and what is below them, as they would stand: looked for where they stand in the level.

/** Metres below a place in which a surface is looked for. */
const FARTHEST_BELOW = 100

/** What of a thing there is in the level to be looked at; a thing that comes with the change shows nothing yet. */
const shownOf = (standing: Standing, id: string) => (standing.level.has(id) ? standing.level.subtree(id) : [])

/** How far a thing, with what hangs from it, reaches in a direction of unit length; null if it shows nothing. */
export function reachOf(
  standing: Standing,
  finder: Finder,
  id: string,
  direction: Vector3,
): { reach: number; middle: Vector3 } | null {
  const way = standing.wayOf(id)
  // The farthest point of what is moved by a matrix is that of the direction by its transpose.
  const before = direction.clone().applyMatrix3(new Matrix3().setFromMatrix4(way).transpose())
  const length = before.length()
  const found = finder.extents.extreme(shownOf(standing, id), before.divideScalar(length))
  if (!found) return null
  const shift = new Vector3().setFromMatrixPosition(way).dot(direction)
  return { reach: found.reach * length + shift, middle: found.middle.clone().applyMatrix4(way) }
}

/** How high a thing is in the world, with what hangs from it; null if it shows nothing. */
export function heightOf(standing: Standing, finder: Finder, id: string): number | null {
  const [up, down] = [1, -1].map(y => reachOf(standing, finder, id, new Vector3(0, y, 0)))
  return up && down ? up.reach + down.reach : null
}

/** The points of a thing's underside, as it would stand. @param normal of what is below */
export function undersideOf(standing: Standing, finder: Finder, id: string, normal: Vector3): Vector3[] {
  const way = standing.wayOf(id)
  const before = normal.clone().applyMatrix3(new Matrix3().setFromMatrix4(way).transpose()).normalize()
  return finder.extents.underside(shownOf(standing, id), before).map(point => point.applyMatrix4(way))
}

export type Below = { point: Vector3; normal: Vector3; id: string }

/** What is straight below a place of one thing and all that hangs from it, as it would stand; null if nothing is. */
export function belowOn(standing: Standing, finder: Finder, holder: string, from: Vector3): Below | null {
  const thing = thingOf(holder)
  if (!standing.level.has(thing)) return null
  const { of, shown } = standing.surfacesOf(holder, () => surfacesOf(standing, finder, holder))
  const isOwn = (id: string) => of.has(id)
  const hit = shown
    ? castOnto(shown, from)
    : standing.isMoved(thing)
      ? castThrough(standing.wayOf(thing), finder, from, isOwn)
      : cast(finder, from, isOwn)
  return hit && from.y - hit.point.y <= FARTHEST_BELOW ? hit : null
}

/** Of a holder that shows so much each surface is asked by itself; of more those near the ray are looked for. */
const FEW = 12

function surfacesOf(standing: Standing, finder: Finder, holder: string): Surfaces {
  const { level } = standing
  const of = movingWith(level, [holder])
  if (of.size > FEW || [...of].some(id => copyOf(id) || level.arrangementIds.has(id))) return { of, shown: null }
  const shown = [...of].flatMap(id =>
    finder.shownBy(id).map(({ solid, matrix }) => ({
      id,
      solid,
      // What is seen of a thing is where it stands in the level.
      matrix: standing.isMoved(id) ? standing.wayOf(id).clone().multiply(matrix) : matrix,
    })),
  )
  return { of, shown: shown.length > FEW ? null : shown }
}

/** The first of some surfaces straight below a place. */
function castOnto(shown: NonNullable<Surfaces['shown']>, from: Vector3): Below | null {
  const ray = new Ray(from.clone(), DOWN)
  let best: (Below & { distance: number }) | null = null
  for (const { id, solid, matrix } of shown) {
    const hit = solid.raycast(ray, matrix)
    if (hit && hit.distance < (best?.distance ?? Infinity)) best = { id, ...hit }
  }
  return best
}

/** The same of everything that stays where it is. */
export function belowOnAny(standing: Standing, finder: Finder, from: Vector3): Below | null {
  const hit = cast(finder, from, id => !standing.isMoved(id))
  return hit && from.y - hit.point.y <= FARTHEST_BELOW ? { ...hit, id: hit.copy ?? hit.id } : null
}

const DOWN = new Vector3(0, -1, 0)

const cast = (finder: Finder, from: Vector3, accept: (id: string) => boolean): LevelHit | null =>
  finder.raycast(new Ray(from.clone(), DOWN.clone()), accept)

/** Of what is moved by a matrix: looked for where it was. */
function castThrough(way: Matrix4, finder: Finder, from: Vector3, accept: (id: string) => boolean): Below | null {
  const back = way.clone().invert()
  const ray = new Ray(from.clone(), DOWN.clone()).applyMatrix4(back)
  ray.direction.normalize()
  const hit = finder.raycast(ray, accept)
  return (
    hit && {
      id: hit.id,
      point: hit.point.clone().applyMatrix4(way),
      normal: hit.normal.clone().applyMatrix3(new Matrix3().getNormalMatrix(way)).normalize(),
    }
  )
}
