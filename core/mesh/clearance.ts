import type { Vector3 } from 'three'
import type { Placed } from './placed'
import { boxesApart, pairsOfLeaves } from './placed'
import type { Nearest } from './triangles'
import { noneYet, pointToTriangle, triangleDistance } from './triangles'

/**
 * Where two placed meshes are nearest to each other, by their triangles; squared distance 0 where they cross or touch.
 *
 * @param best what is known already: only what is nearer is looked for
 */
export function nearestBetween(a: Placed, b: Placed, best: Nearest = noneYet()): Nearest {
  // A box's sides are rounded otherwise than a distance is.
  pairsOfLeaves(
    a,
    b,
    () => (best.squared === 0 ? -1 : best.squared * (1 + 1e-12)),
    (leafA, leafB) => {
      const [firstA, firstB] = [a.tree.first[leafA]!, b.tree.first[leafB]!]
      for (let k = firstA; k < firstA + a.tree.count[leafA]!; k++) {
        for (let l = firstB; l < firstB + b.tree.count[leafB]!; l++) {
          if (best.squared > 0) triangleDistance(a.corners, k * 9, b.corners, l * 9, best)
        }
      }
    },
  )
  return best
}

/** Whether two placed meshes are no farther apart than `gap`, in metres. */
export function isNear(a: Placed, b: Placed, gap: number): boolean {
  const most = gap * gap * (1 + 1e-9)
  return nearestBetween(a, b, noneYet(most)).squared < most
}

/** The same between two groups of meshes: the pairs whose boxes are nearest first. Null if one of them is empty. */
export function nearestBetweenGroups(
  as: readonly Placed[],
  bs: readonly Placed[],
): { nearest: Nearest; a: Placed; b: Placed } | null {
  const pairs = as
    .flatMap(a => bs.map(b => ({ a, b, apart: boxesApart(a.boxes, a.box(0), b.boxes, b.box(0)) })))
    .sort((one, other) => one.apart - other.apart)
  const nearest = noneYet()
  let found: { a: Placed; b: Placed } | null = null
  for (const { a, b, apart } of pairs) {
    if (apart >= nearest.squared) break
    const before = nearest.squared
    nearestBetween(a, b, nearest)
    if (nearest.squared < before) found = { a, b }
  }
  return found && { nearest, ...found }
}

/** Where a placed mesh is nearest to a point. @param best only what is nearer is looked for */
export function nearestToPoint({ x, y, z }: Vector3, of: Placed, best: Nearest = noneYet()): Nearest {
  const point = Float64Array.of(x, y, z, x, y, z)
  const stack = [0]
  while (stack.length > 0) {
    const node = stack.pop()!
    if (boxesApart(point, 0, of.boxes, of.box(node)) >= best.squared) continue
    if (of.tree.left[node]! >= 0) {
      stack.push(of.tree.left[node]!, of.tree.right[node]!)
      continue
    }
    of.leaf(node)
    for (let k = of.tree.first[node]!; k < of.tree.first[node]! + of.tree.count[node]!; k++)
      pointToTriangle(point, 0, of.corners, k * 9, best, false)
  }
  return best
}
