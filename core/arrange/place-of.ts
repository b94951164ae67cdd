import { Quaternion, Vector3 } from 'three'
import { degreesToQuat } from '../level/transform'
import { fanRowCount, lineCount } from './count'
import { geometricWay, isFullRing } from './evaluate'
import { riseOf } from './rise'
import type { FanRule, GridRule, LineRule, RingRule } from './rule'

// Where one copy of a rule stands, without working out those before it: for grips, which are asked for it at every pointer move.

/** @param index of the copy, from 0 to one less than `lineCount` */
export function linePlace(rule: LineRule, index: number): Vector3 {
  const count = lineCount(rule)
  const { measure, ratio, centred, along, axes, turn, size } = rule
  const gaps = geometricWay(ratio, count - 1)
  const step = new Vector3(...along).divideScalar(measure === 'spacing' || count === 1 ? 1 : gaps)
  const isSpiral = axes === 'local' && (turn.some(value => value !== 0) || size !== 1)
  const way = isSpiral ? (i: number) => spiralPlace(rule, step, i) : (i: number) => step.clone().multiplyScalar(geometricWay(ratio, i))
  return centred ? way(index).sub(way(count - 1).divideScalar(2)) : way(index)
}

/**
 * The sum of the steps of a spiral: of gᵏ·Rᵏ·step for k below `index`, where g grows each step and R turns it. Along the axis of R
 * that is a geometric series of g; across it one of the complex number g·e^(iθ).
 */
function spiralPlace({ turn, size, ratio }: LineRule, step: Vector3, index: number): Vector3 {
  const rotation = new Quaternion(...degreesToQuat(turn)).normalize()
  const half = Math.hypot(rotation.x, rotation.y, rotation.z)
  const angle = 2 * Math.atan2(half, rotation.w)
  const axis = half > 0 ? new Vector3(rotation.x, rotation.y, rotation.z).divideScalar(half) : new Vector3(0, 1, 0)
  const grows = size * ratio
  const along = axis.clone().multiplyScalar(step.dot(axis))
  const across = step.clone().sub(along)
  const [real, imaginary] = complexSeries(grows, angle, index)
  return along.multiplyScalar(geometricWay(grows, index)).addScaledVector(across, real).addScaledVector(axis.clone().cross(across), imaginary)
}

/** The sum of (g·e^(iθ))ᵏ for k below `count`: (zⁿ - 1) / (z - 1). */
function complexSeries(g: number, angle: number, count: number): [number, number] {
  const [x, y] = [g * Math.cos(angle) - 1, g * Math.sin(angle)]
  const square = x * x + y * y
  if (square < 1e-24) return [count, 0]
  const [u, v] = [g ** count * Math.cos(angle * count) - 1, g ** count * Math.sin(angle * count)]
  return [(u * x + v * y) / square, (v * x - u * y) / square]
}

/** @param index of the copy, from 0 to one less than the count */
export function ringPlace({ count, radius, axis, start, arc, rise }: RingRule, index: number): Vector3 {
  const pitch = count === 1 ? 0 : arc / (isFullRing(arc) ? count : count - 1)
  const angle = (start + pitch * index) * Math.PI / 180
  return new Vector3()
    .setComponent((axis + 1) % 3, radius * Math.cos(angle))
    .setComponent((axis + 2) % 3, radius * Math.sin(angle))
    .setComponent(axis, rise * index)
}

/** The first copy of a row of a fan. @param index of that copy among all */
export function fanRowPlace(rule: FanRule, row: number, index: number, count: number): Vector3 {
  const { rows, radius, depth, arc, stagger, first } = rule
  const inRow = fanRowCount(rule, row)
  const pitch = inRow > 1 ? arc / (inRow - 1) : 0
  const angle = ((inRow > 1 ? -arc / 2 : 0) + row % 2 * stagger * pitch) * Math.PI / 180
  const far = radius + row * depth
  return new Vector3(far * Math.sin(angle), riseOf(rule.rise, { rows, columns: first, layers: 1, count })(row, 0, 0, index), far * Math.cos(angle))
}

/** The last copy of a grid that is not staggered. */
export function gridFarPlace({ counts, spacing, measure, centred, rise }: GridRule): Vector3 {
  const [columns, layers, rows] = counts
  const count = columns * layers * rows
  const span = new Vector3(...spacing).multiply(measure === 'span' ? new Vector3(...counts.map(value => value > 1 ? 1 : 0)) : new Vector3(columns - 1, layers - 1, rows - 1))
  if (centred) span.divideScalar(2)
  return span.add(new Vector3(0, riseOf(rise, { rows, columns, layers, count })(rows - 1, columns - 1, layers - 1, count - 1), 0))
}
