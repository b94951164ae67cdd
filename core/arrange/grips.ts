import { Matrix3, Vector3 } from 'three'
import type { Vec3 } from '../level/schema'
import { tidy } from '../units/quantity'
import { countOf, fanRowCount, fanRowStarts, lineCount } from './count'
import { isFullRing } from './evaluate'
import { PathCurve } from './path-curve'
import { fanRowPlace, gridFarPlace, linePlace, ringPlace } from './place-of'
import type { FanRule, GridRule, LineRule, PathRule, RingRule, Rule } from './rule'

/** A place on the stage by which a rule can be taken hold of; `between` makes a new point of a path when it is dragged. */
export type RuleGrip = { at: Vector3, between?: true }

/** What dragging a grip makes of a rule, and how far the arrangement itself moves, along its own axes. */
export type GripDragged = { rule: Rule, shift?: Vec3 }

/** The grips of a rule, in the arrangement's axes. */
export function gripsOf(rule: Rule): RuleGrip[] {
  switch (rule.rule) {
    case 'line': return lineCount(rule) > 1 ? [{ at: linePlace(rule, 0) }, { at: linePlace(rule, lineCount(rule) - 1) }] : []
    case 'ring': return [{ at: ringPlace(rule, 0) }, ...!isFullRing(rule.arc) && rule.count > 1 ? [{ at: ringPlace(rule, rule.count - 1) }] : []]
    case 'fan': return fanGrips(rule)
    case 'grid': return [{ at: gridFarPlace(rule) }]
    case 'path': return pathGrips(rule)
    case 'mirror': return []
  }
}

/**
 * The rule with a grip dragged to a place in the arrangement's axes. The first copy of a line moves while its last one stays, and the
 * other way round; a ring's and a fan's grips change radius and arc; a grid's its spacing; a path's its points.
 *
 * @param index of the grip as `gripsOf` gives them
 */
export function dragGrip(rule: Rule, index: number, to: Vector3): GripDragged {
  switch (rule.rule) {
    case 'line': return dragLine(rule, index, to)
    case 'ring': return { rule: dragRing(rule, index, to) }
    case 'fan': return { rule: dragFan(rule, index, to) }
    case 'grid': return { rule: dragGrid(rule, to) }
    case 'path': return { rule: dragPath(rule, index, to) }
    case 'mirror': return { rule }
  }
}

/** The path without a point; null if too few would be left. */
export function withoutPoint(rule: PathRule, index: number): PathRule | null {
  return rule.points.length > 2 && index < rule.points.length ? { ...rule, points: rule.points.toSpliced(index, 1) } : null
}

const rounded = (vector: Vector3): Vec3 => vector.toArray().map(tidy) as Vec3
const around = ({ x, z }: Vector3) => Math.atan2(x, z) * 180 / Math.PI

/** Where a line's copies stand depends evenly on its spacing or span, whatever its turn, size and ratio; so it can be solved for. */
function dragLine(rule: LineRule, index: number, to: Vector3): GripDragged {
  const count = lineCount(rule)
  const fixed: LineRule = rule.measure === 'fit' ? { ...rule, measure: 'span', count } : rule
  const placesFor = (along: Vec3) => [linePlace({ ...fixed, along }, 0), linePlace({ ...fixed, along }, count - 1)] as const
  const columns = ([[1, 0, 0], [0, 1, 0], [0, 0, 1]] as Vec3[]).map(placesFor)
  const first = new Matrix3().set(...rows(columns.map(([place]) => place)))
  const whole = new Matrix3().set(...rows(columns.map(([from, place]) => place.clone().sub(from))))
  if (Math.abs(whole.determinant()) < 1e-12) return { rule }
  const [start, end] = placesFor(rule.along)
  const along = (index === 0 ? end.clone().sub(to) : to.clone().sub(start)).applyMatrix3(whole.invert())
  const shift = (index === 0 ? to.clone() : start.clone()).sub(along.clone().applyMatrix3(first))
  return { rule: { ...rule, along: rounded(along) }, ...shift.length() > 1e-9 ? { shift: rounded(shift) } : {} }
}

const rows = ([a, b, c]: Vector3[]): [number, number, number, number, number, number, number, number, number] =>
  [a!.x, b!.x, c!.x, a!.y, b!.y, c!.y, a!.z, b!.z, c!.z]

function dragRing(rule: RingRule, index: number, to: Vector3): RingRule {
  // As evaluate places them: around X from Y towards Z, and so on.
  const [u, v] = [to.getComponent((rule.axis + 1) % 3), to.getComponent((rule.axis + 2) % 3)]
  const [radius, angle] = [Math.hypot(u, v), Math.atan2(v, u) * 180 / Math.PI]
  if (index === 0) return { ...rule, radius: tidy(radius), start: tidy(angle) }
  return { ...rule, radius: tidy(radius), arc: tidy(nearTo(angle - rule.start, rule.arc)) }
}

/** An angle brought within half a turn of another. */
const nearTo = (angle: number, other: number) => angle + Math.round((other - angle) / 360) * 360

function fanGrips(rule: FanRule): RuleGrip[] {
  const last = rule.rows - 1
  const count = countOf(rule)
  const back = rule.rows > 1 ? [{ at: new Vector3(0, fanRowPlace(rule, last, fanRowStarts(rule)[last]!, count).y, rule.radius + last * rule.depth) }] : []
  return [{ at: fanRowPlace(rule, 0, 0, count) }, ...back]
}

function dragFan(rule: FanRule, index: number, to: Vector3): FanRule {
  const far = Math.hypot(to.x, to.z)
  if (index === 1) return { ...rule, depth: tidy((far - rule.radius) / (rule.rows - 1)) }
  return { ...rule, radius: tidy(far), arc: fanRowCount(rule, 0) > 1 ? tidy(Math.abs(around(to)) * 2) : rule.arc }
}

function dragGrid(rule: GridRule, to: Vector3): GridRule {
  const moved = to.clone().sub(gridFarPlace(rule))
  const spacing = rule.spacing.map((value, axis) => {
    const steps = rule.measure === 'span' ? 1 : rule.counts[axis]! - 1
    if (rule.counts[axis] === 1) return value
    return tidy(value + moved.getComponent(axis) / steps * (rule.centred ? 2 : 1))
  }) as Vec3
  return { ...rule, spacing }
}

function pathGrips(rule: PathRule): RuleGrip[] {
  const curve = new PathCurve(rule)
  const ways = curve.wayOfPoints()
  const ends = [...ways.slice(1), ...rule.closed && rule.points.length > 2 ? [curve.length] : []]
  return [...rule.points.map(point => ({ at: new Vector3(...point) })), ...ends.map((end, i) => ({ at: curve.at((ways[i]! + end) / 2), between: true as const }))]
}

function dragPath(rule: PathRule, index: number, to: Vector3): PathRule {
  const count = rule.points.length
  if (index < count) return { ...rule, points: rule.points.with(index, rounded(to)) }
  return { ...rule, points: rule.points.toSpliced(index - count + 1, 0, rounded(to)) }
}
