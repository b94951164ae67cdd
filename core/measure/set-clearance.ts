import { Matrix4, Vector3 } from 'three'
import type { Measure } from '../level/schema'
import { nearestBetweenGroups } from '../mesh/clearance'
import { overlapOf } from '../mesh/overlap'
import { Placed } from '../mesh/placed'
import type { Where } from './definition'
import { placedOf } from './definition'
import type { Along, LengthSet, Wanted } from './set-length'
import { directionOf, isNearlyLevel, moveThings, saysMove, SetLengthError } from './set-length'

/** Metres that a clearance may be off what was asked for, and steps in which it is found. */
const [EXACT, STEPS] = [1e-7, 60]

/**
 * What makes the least distance between two things as large as is asked: the last of the two, or the first, goes away
 * from the other or towards it, by as little as will do; out of what it overlaps with first.
 *
 * Found by going on by what is missing (sphere tracing, Hart 1996): nothing moved by a way changes its distance by more
 * than that, so that the place is never passed by.
 *
 * @param wanted `metres` of 0: they touch
 * @throws SetLengthError if it cannot become so, or what would move is locked
 */
export function setClearance(
  { sides }: Measure,
  where: Where,
  { metres, along: wanted, first = false }: Wanted,
): LengthSet {
  const { level } = where
  const [stays, moves] = (first ? [1, 0] : [0, 1]).map(side => (sides[side] ?? []).filter(id => level.has(id))) as [
    string[],
    string[],
  ]
  const [others, movers] = [placedOf(stays, where), placedOf(moves, where)]
  if (!(metres >= 0)) throw new SetLengthError('A clearance cannot be less than 0.')
  const { way, value, free } = apart(others, movers)
  const along: Along = wanted ?? (isNearlyLevel(way) ? 'level' : 'line')
  const direction = directionOf(way, along)
  const at = (t: number) =>
    nearestBetweenGroups(
      others,
      movers.map(
        ({ solid, matrix }) =>
          new Placed(solid, new Matrix4().makeTranslation(direction.clone().multiplyScalar(t)).multiply(matrix)),
      ),
    )
  const clearanceAt = (t: number) => Math.sqrt(at(t)!.nearest.squared)
  // Where they overlap it is begun where they do not any more.
  let t = free / Math.max(direction.dot(way.clone().normalize()), 1e-3)
  let now = free > 0 ? clearanceAt(t) : value
  const most = 10 * (Math.abs(metres - now) + 1) + free
  for (let step = 0; step < STEPS && Math.abs(metres - now) > EXACT; step++) {
    t += metres - now
    if (Math.abs(t) > most) break
    now = clearanceAt(t)
  }
  if (Math.abs(metres - now) > EXACT * 10)
    throw new SetLengthError(
      metres < value
        ? 'In that direction they do not come so near to each other.'
        : 'In that direction they do not come so far apart.',
    )
  return {
    operations: moveThings(level, moves, direction.multiplyScalar(t)),
    says: saysMove(
      moves.map(id => level.need(id).name),
      along,
    ),
  }
}

/**
 * Which way the last of two groups is from the first: along their nearest points, or the shortest way out of each
 * other.
 */
function apart(others: readonly Placed[], movers: readonly Placed[]): { way: Vector3; value: number; free: number } {
  const found = nearestBetweenGroups(others, movers)
  if (!found) throw new SetLengthError('One of the two shows nothing to measure to.')
  let deepest: { depth: number; way: Vector3 } | null = null
  for (const mover of movers)
    for (const other of others) {
      const overlap = overlapOf(mover, other)
      if (overlap && (!deepest || overlap.depth > deepest.depth)) deepest = overlap
    }
  if (deepest) return { way: deepest.way.clone(), value: 0, free: deepest.depth }
  const value = Math.sqrt(found.nearest.squared)
  const way = new Vector3(...found.nearest.b).sub(new Vector3(...found.nearest.a))
  return { way: value > 1e-6 ? way : awayOf(found.a, found.b), value, free: 0 }
}

/** Of two that touch, the axis of the world along which their boxes are farthest from overlapping. */
function awayOf(a: Placed, b: Placed): Vector3 {
  const [one, other] = [a.bounds(), b.bounds()]
  const gaps = [0, 1, 2].flatMap(axis =>
    [1, -1].map(sign => ({
      axis,
      sign,
      gap:
        sign > 0
          ? other.min.getComponent(axis) - one.max.getComponent(axis)
          : one.min.getComponent(axis) - other.max.getComponent(axis),
    })),
  )
  const { axis, sign } = gaps.sort((x, y) => y.gap - x.gap)[0]!
  return new Vector3().setComponent(axis, sign)
}
