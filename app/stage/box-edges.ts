import type { Box3 } from 'three'
import { Vector3 } from 'three'

/** The twelve edges of a box, each by its two ends. */
export function edgesOf({ min, max }: Box3): [Vector3, Vector3][] {
  const corner = (i: number) => new Vector3(i & 1 ? max.x : min.x, i & 2 ? max.y : min.y, i & 4 ? max.z : min.z)
  return [0, 1, 2, 3, 4, 5, 6, 7].flatMap(i =>
    [1, 2, 4].filter(bit => !(i & bit)).map(bit => [corner(i), corner(i | bit)] as [Vector3, Vector3]),
  )
}
