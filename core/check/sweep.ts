import type { Vec3 } from '../math/vectors'
import { Box3, Vector3 } from 'three'
import type { LevelIndex } from '../scene/level-index'
import { trianglesIn } from '../scene/triangles-in'

/**
 * The room to both sides of a way that a body is swept along, in metres: 0 where something is across it. All that is
 * there counts, however thin, and wherever between the two heights.
 *
 * @param from one end of the way on the ground, and `to` the other
 * @param aside the level way to its left, of unit length
 * @param reach how far to each side it is looked
 * @param low height above the ground from which things are in the way, @param high and up to which
 */
export function sweptRoom(
  index: LevelIndex,
  { from, to, aside }: { from: Vector3; to: Vector3; aside: Vector3 },
  { reach, low, high }: { reach: number; low: number; high: number },
): number {
  const along = new Vector3(-aside.z, 0, aside.x)
  const length = to.clone().sub(from).dot(along)
  const rise = length === 0 ? 0 : (to.y - from.y) / length
  const box = new Box3().setFromPoints(
    [from, to].flatMap(end =>
      [-1, 1].flatMap(side =>
        [low, high].map(height =>
          end
            .clone()
            .addScaledVector(aside, side * reach)
            .setY(end.y + height),
        ),
      ),
    ),
  )
  const { count, corners } = trianglesIn(index, box)
  let [left, right] = [reach, reach]
  const [low0, high0] = [Math.min(0, length), Math.max(0, length)]
  for (let i = 0; i < count; i++) {
    // Along the way, to its left, and above the ground below.
    let polygon: Vec3[] = [0, 3, 6].map(k => {
      const [x, y, z] = [
        corners[i * 9 + k]! - from.x,
        corners[i * 9 + k + 1]! - from.y,
        corners[i * 9 + k + 2]! - from.z,
      ]
      const t = x * along.x + z * along.z
      return [t, x * aside.x + z * aside.z, y - rise * t]
    })
    polygon = cut(cut(cut(cut(polygon, 0, low0, 1), 0, high0, -1), 2, low, 1), 2, high, -1)
    if (polygon.length === 0) continue
    const sides = polygon.map(([, side]) => side)
    const [least, most] = [Math.min(...sides), Math.max(...sides)]
    if (least <= 0 && most >= 0) return 0
    if (least > 0) left = Math.min(left, least)
    else right = Math.min(right, -most)
  }
  return left + right
}

/**
 * What of a polygon lies on one side of a plane across an axis (Sutherland and Hodgman 1974).
 *
 * @param side 1: above the value, -1: below it
 */
function cut(polygon: readonly Vec3[], axis: 0 | 2, value: number, side: 1 | -1): Vec3[] {
  return polygon.flatMap((at, i): Vec3[] => {
    const next = polygon[(i + 1) % polygon.length]!
    const [here, there] = [(at[axis] - value) * side, (next[axis] - value) * side]
    const kept: Vec3[] = here >= 0 ? [at] : []
    if ((here > 0 && there < 0) || (here < 0 && there > 0)) {
      const share = here / (here - there)
      kept.push([0, 1, 2].map(k => at[k]! + (next[k]! - at[k]!) * share) as Vec3)
    }
    return kept
  })
}
