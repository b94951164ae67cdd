import { Box3, Matrix4, Vector3 } from 'three'
import type { Rule } from '../../arrange/rules'
import { ruleMatrices, RULES } from '../../arrange/rules'
import type { Transform } from '../../math/transform'
import { decompose, isSheared } from '../../math/transform'
import { tidy } from '../../units/quantity'
import type { Vec3 } from '../../math/vectors'

/** A rule that puts copies where they were found, where its arrangement stands, and its one source below it. */
export type FoundRule = {
  rule: Rule
  at: Vec3
  source: Omit<Transform, 'pivot'>
  /** Metres that any of the copies is from where it was found, at most. */
  moved: number
}

/** Fewer are not taken for a rule. */
const FEWEST = 3
/** Of a number in single precision, in which instances are told, the least that it can differ by, relative to it. */
const SINGLE = 2 ** -23
/**
 * As many of those a copy may be from where the rule has it: relative to the farthest number of its places, and to its
 * axes, which are of several.
 */
const [OFF, OFF_AXES] = [8 * SINGLE, 16 * SINGLE]
/** Relative to the size of all, places nearer to each other than this are in one row. */
const SAME_ROW = 1e-4

/**
 * The line, grid or ring that copies stand in; null if they stand in none of these.
 *
 * @param matrices in the axes of the arrangement to be
 */
export function findRule(matrices: readonly Matrix4[]): FoundRule | null {
  if (matrices.length < FEWEST || matrices.some(isSheared)) return null
  return asLine(matrices) ?? asGrid(matrices) ?? asRing(matrices)
}

const placeOf = (matrix: Matrix4) => new Vector3().setFromMatrixPosition(matrix)

function asLine(matrices: readonly Matrix4[]): FoundRule | null {
  const places = matrices.map(placeOf)
  const far = farthest(places, places[0]!)
  const way = farthest(places, far).sub(far)
  if (way.length() === 0) return null
  // From the end at which the first of them is nearer, so that a line that was given in order stays so.
  const order = matrices
    .map((matrix, i) => ({ matrix, along: places[i]!.clone().sub(far).dot(way) }))
    .sort((a, b) => a.along - b.along)
    .map(({ matrix }) => matrix)
  if (order[0] !== matrices[0] && order.at(-1) === matrices[0]) order.reverse()
  const [start, end] = [placeOf(order[0]!), placeOf(order.at(-1)!)]
  const along = end
    .sub(start)
    .divideScalar(order.length - 1)
    .toArray()
    .map(tidy) as Vec3
  return fitting({ ...RULES.line.first, count: order.length, along }, [0, 0, 0], order)
}

function farthest(places: readonly Vector3[], from: Vector3): Vector3 {
  return places
    .reduce((best, place) => (place.distanceToSquared(from) > best.distanceToSquared(from) ? place : best), places[0]!)
    .clone()
}

function asGrid(matrices: readonly Matrix4[]): FoundRule | null {
  const box = new Box3().setFromPoints(matrices.map(placeOf))
  const size = box.getSize(new Vector3())
  const [counts, spacing]: [number[], number[]] = [[], []]
  for (let axis = 0; axis < 3; axis++) {
    const values = distinct(
      matrices.map(matrix => matrix.elements[12 + axis]!),
      size.length() * SAME_ROW,
    )
    counts.push(values.length)
    spacing.push(
      values.length > 1 ? tidy(size.getComponent(axis) / (values.length - 1)) : RULES.grid.first.spacing[axis]!,
    )
  }
  if (counts[0]! * counts[1]! * counts[2]! !== matrices.length) return null
  const rule: Rule = { ...RULES.grid.first, counts: counts as Vec3, spacing: spacing as Vec3 }
  const ruled = ruleMatrices(rule)
  const byPlace = new Map(matrices.map(matrix => [placeKey(placeOf(matrix).sub(box.min), spacing), matrix]))
  const order: Matrix4[] = []
  for (let i = 0; i < matrices.length; i++) {
    const found = byPlace.get(placeKey(new Vector3().fromArray(ruled, i * 16 + 12), spacing))
    if (!found) return null
    order.push(found)
  }
  return fitting(rule, [0, 0, 0], order)
}

const placeKey = (place: Vector3, spacing: readonly number[]) =>
  place
    .toArray()
    .map((value, axis) => Math.round(value / (spacing[axis] || 1)))
    .join(' ')

function distinct(values: readonly number[], apart: number): number[] {
  const found: number[] = []
  for (const value of values.toSorted((a, b) => a - b))
    if (found.length === 0 || value - found.at(-1)! > apart) found.push(value)
  return found
}

/** A ring about the vertical, whole or in part. */
function asRing(matrices: readonly Matrix4[]): FoundRule | null {
  const places = matrices.map(placeOf)
  const middle = middleOf(places)
  if (!middle) return null
  const angleOf = (place: Vector3) => (Math.atan2(place.x - middle.x, place.z - middle.z) * 180) / Math.PI
  const start = angleOf(places[0]!)
  const order = matrices
    .map((matrix, i) => ({ matrix, angle: (angleOf(places[i]!) - start + 720 - 1e-6) % 360 }))
    .sort((a, b) => a.angle - b.angle)
    .map(({ matrix }) => matrix)
  // The rounding above puts the first one last.
  order.unshift(order.pop()!)
  const pitch = (angleOf(placeOf(order[1]!)) - start + 720) % 360
  const isWhole = Math.abs(pitch * order.length - 360) < 0.05
  // By the last: what the second is off by would be the more for each that follows.
  const arc = (angleOf(placeOf(order.at(-1)!)) - start + 720) % 360
  const ring = {
    ...RULES.ring.first,
    count: order.length,
    radius: tidy(places[0]!.clone().setY(0).distanceTo(middle.clone().setY(0))),
    start: tidy(start),
    arc: isWhole ? 360 : tidy(arc),
  }
  const at = middle.clone().setY(places[0]!.y).toArray()
  return fitting({ ...ring, facing: 'out' }, at, order) ?? fitting({ ...ring, facing: 'kept' }, at, order)
}

/**
 * The middle of the circle through the first, and two that are far from it and each other; null if they are in a line.
 */
function middleOf(places: readonly Vector3[]): Vector3 | null {
  const [a, b] = [places[0]!, farthest(places, places[0]!)]
  const c = places.reduce(
    (best, place) =>
      Math.min(place.distanceTo(a), place.distanceTo(b)) > Math.min(best.distanceTo(a), best.distanceTo(b))
        ? place
        : best,
    a,
  )
  const [bx, bz, cx, cz] = [b.x - a.x, b.z - a.z, c.x - a.x, c.z - a.z]
  const twice = 2 * (bx * cz - bz * cx)
  if (Math.abs(twice) < 1e-9 * (bx * bx + bz * bz)) return null
  const [bb, cc] = [bx * bx + bz * bz, cx * cx + cz * cz]
  return new Vector3(a.x + (cz * bb - bz * cc) / twice, 0, a.z + (bx * cc - cx * bb) / twice)
}

/** The rule if it puts copies of one source where these stand, in this order. */
function fitting(rule: Rule, at: Vec3, order: readonly Matrix4[]): FoundRule | null {
  const ruled = ruleMatrices(rule)
  const toRule = new Matrix4().makeTranslation(-at[0], -at[1], -at[2])
  const local = new Matrix4().fromArray(ruled).invert().multiply(toRule).multiply(order[0]!)
  if (isSheared(local)) return null
  const farthestOut = order.reduce((most, { elements }) => Math.max(most, ...elements.slice(12, 15).map(Math.abs)), 0)
  const made = new Matrix4()
  let moved = 0
  for (const [i, matrix] of order.entries()) {
    made.fromArray(ruled, i * 16).multiply(local)
    made.elements[12] += at[0]
    made.elements[13] += at[1]
    made.elements[14] += at[2]
    const longest = Math.max(...matrix.elements.slice(0, 11).map(Math.abs))
    if (
      made.elements.some(
        (value, k) => !(Math.abs(value - matrix.elements[k]!) <= (k < 12 ? OFF_AXES * longest : OFF * farthestOut)),
      )
    )
      return null
    moved = Math.max(moved, placeOf(made).distanceTo(placeOf(matrix)))
  }
  return { rule, at, source: decompose(local, [0, 0, 0]), moved }
}
