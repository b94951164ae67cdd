import type { Box3, Matrix4, Triangle, Vector3 } from 'three'
import { CONTAINED, INTERSECTED, NOT_INTERSECTED } from 'three-mesh-bvh'
import type { Where } from '../math/box-tree'
import type { Solid } from './solid'

/** A rectangle of the picture in normalised device coordinates: -1 to 1, y up. */
export type Frame = { x0: number; y0: number; x1: number; y1: number }

export type FrameRule = 'touch' | 'inside'

/** a, b, c, d of ax + by + cz + d, which is not negative on the inner side. */
export type PlaneEquation = readonly [number, number, number, number]

type BoxSides = readonly [x0: number, y0: number, z0: number, x1: number, y1: number, z1: number]

/**
 * The planes that bound what is seen through a frame: its four sides and the near distance.
 *
 * A point with clip coordinates x, y, z, w is seen through it if x ≥ x0·w, x ≤ x1·w, likewise for y, and z ≥ -w; each
 * is a plane in the space the matrix maps from (Gribb and Hartmann 2001, from memory). Right for perspective and
 * orthographic.
 *
 * @param projection maps from that space to clip coordinates
 */
export function framePlanes(projection: Matrix4, { x0, y0, x1, y1 }: Frame): PlaneEquation[] {
  const e = projection.elements
  const row = (i: number) => [e[i]!, e[i + 4]!, e[i + 8]!, e[i + 12]!] as const
  const [x, y, z, w] = [row(0), row(1), row(2), row(3)]
  const combine = (a: readonly number[], s: number, b: readonly number[], t: number) =>
    a.map((value, i) => s * value + t * b[i]!) as unknown as PlaneEquation
  return [
    combine(x, 1, w, -x0),
    combine(x, -1, w, x1),
    combine(y, 1, w, -y0),
    combine(y, -1, w, y1),
    combine(z, 1, w, 1),
  ]
}

/** Where a box lies: `outside` is only said when one plane has all of it on its outer side. */
export function boxAgainstPlanes(planes: readonly PlaneEquation[], [x0, y0, z0, x1, y1, z1]: BoxSides): Where {
  let inside = true
  for (const [a, b, c, d] of planes) {
    const most = a * (a > 0 ? x1 : x0) + b * (b > 0 ? y1 : y0) + c * (c > 0 ? z1 : z0) + d
    if (most < 0) return 'outside'
    const least = a * (a > 0 ? x0 : x1) + b * (b > 0 ? y0 : y1) + c * (c > 0 ? z0 : z1) + d
    if (least < 0) inside = false
  }
  return inside ? 'inside' : 'across'
}

/** Whether a solid is taken, the planes being in its own axes. */
export function solidInFrame(solid: Solid, planes: readonly PlaneEquation[], rule: FrameRule): boolean {
  const whole = boxAgainstPlanes(planes, sidesOf(solid.bounds))
  if (whole !== 'across') return whole === 'inside'
  return rule === 'touch'
    ? solid.trees.some(tree => touches(tree, planes))
    : !solid.trees.some(tree => sticksOut(tree, planes))
}

type Tree = Solid['trees'][number]

function touches(tree: Tree, planes: readonly PlaneEquation[]): boolean {
  return tree.shapecast({
    intersectsBounds: box => {
      const where = boxAgainstPlanes(planes, sidesOf(box))
      return where === 'outside' ? NOT_INTERSECTED : where === 'inside' ? CONTAINED : INTERSECTED
    },
    intersectsTriangle: (triangle, _index, contained) => contained || triangleTouches(triangle, planes),
  })
}

function sticksOut(tree: Tree, planes: readonly PlaneEquation[]): boolean {
  return tree.shapecast({
    intersectsBounds: box => (boxAgainstPlanes(planes, sidesOf(box)) === 'inside' ? NOT_INTERSECTED : INTERSECTED),
    intersectsTriangle: triangle =>
      [triangle.a, triangle.b, triangle.c].some(corner => planes.some(plane => side(plane, corner) < 0)),
  })
}

/** Cuts the triangle off at each plane in turn (Sutherland and Hodgman 1974); something is left if it reaches in. */
function triangleTouches({ a, b, c }: Pick<Triangle, 'a' | 'b' | 'c'>, planes: readonly PlaneEquation[]): boolean {
  let polygon = [a.clone(), b.clone(), c.clone()]
  for (const plane of planes) {
    const cut: Vector3[] = []
    polygon.forEach((point, i) => {
      const next = polygon[(i + 1) % polygon.length]!
      const [here, there] = [side(plane, point), side(plane, next)]
      if (here >= 0) cut.push(point)
      if (here >= 0 !== there >= 0) cut.push(point.clone().lerp(next, here / (here - there)))
    })
    if (cut.length === 0) return false
    polygon = cut
  }
  return true
}

function side([a, b, c, d]: PlaneEquation, { x, y, z }: Vector3): number {
  return a * x + b * y + c * z + d
}

export function sidesOf({ min, max }: Box3): BoxSides {
  return [min.x, min.y, min.z, max.x, max.y, max.z]
}
