import { Quaternion, Vector3 } from 'three'
import type { AxisIndex, Constraint } from '../handles/lock'
import { freeAxes } from '../handles/lock'
import { directionsOf } from '../handles/axes'
import { tidy } from '../../units/quantity'

/**
 * The nearest multiple of `step`; the value itself when the step is 0.
 * Free of the crumbs of binary fractions: 0.3 at a step of 0.1 is 0.3.
 */
export function snapToStep(value: number, step: number): number {
  return step > 0 ? tidy(Math.round(value / step) * step) : value
}

/** How a step is counted: in multiples from nothing (the lattice), or from where the drag began (in increments). */
export type GridStep = { size: number; lattice: boolean }

/** Where a grid's lines run. */
export type GridFrame = { axes: Quaternion; origin: Vector3 }

export const WORLD_GRID: GridFrame = { axes: new Quaternion(), origin: new Vector3() }

/** A value that began as `from` and would be `to`, brought to a step; `to` itself when the step is 0. */
export function snapValue(from: number, to: number, { size, lattice }: GridStep): number {
  if (size === 0) return to
  return lattice ? snapToStep(to, size) : tidy(from + snapToStep(to - from, size))
}

/**
 * Brings a point that is dragged onto the grid, as far as the drag leaves it free.
 *
 * Along an axis that is askew to the grid, the coordinate that changes most lands on a line; in a plane askew to it,
 * the two that change most do. With increments the steps are counted along the drag's own axes from where it began.
 *
 * @param from where the point was at the start, in the world
 * @param offset where the drag would take it from there, in the world
 * @returns the offset to use instead
 */
export function snapOffset(
  from: Vector3,
  offset: Vector3,
  constraint: Constraint,
  axes: Quaternion,
  step: GridStep,
  frame: GridFrame,
): Vector3 {
  if (step.size === 0) return offset.clone()
  const free = freeAxes(constraint)
  const directions = directionsOf(axes)
  if (!step.lattice) {
    const snapped = new Vector3()
    for (const axis of free)
      snapped.addScaledVector(directions[axis], snapToStep(offset.dot(directions[axis]), step.size))
    return snapped
  }
  const toGrid = frame.axes.clone().invert()
  const start = from.clone().sub(frame.origin).applyQuaternion(toGrid)
  const way = offset.clone().applyQuaternion(toGrid)
  const landed = (k: number) =>
    snapToStep(start.getComponent(k) + way.getComponent(k), step.size) - start.getComponent(k)
  const result = new Vector3()
  if (constraint.kind === 'view') {
    result.set(landed(0), landed(1), landed(2))
  } else {
    const special = directions[constraint.axis].clone().applyQuaternion(toGrid)
    const main = largest(special)
    if (constraint.kind === 'axis') {
      result
        .copy(special)
        .multiplyScalar(landed(main) / special.getComponent(main))
        .setComponent(main, landed(main))
    } else {
      const [a, b] = [(main + 1) % 3, (main + 2) % 3]
      result.setComponent(a, landed(a)).setComponent(b, landed(b))
      result.setComponent(
        main,
        -(special.getComponent(a) * landed(a) + special.getComponent(b) * landed(b)) / special.getComponent(main),
      )
    }
  }
  return tidyVector(result.applyQuaternion(frame.axes))
}

/** Metres from a line of the grid that do not count. */
const ON_LINE = 1e-6

/**
 * Along which of the grid's axes a point that was dragged has come to stand on a line; or, with increments, along which
 * of the drag's axes it has gone a number of steps. Only those are asked about that the drag could change.
 *
 * @param from where the point was at the start, in the world
 * @param offset the way it went
 * @param level whether the height was decided by a surface and is not asked about
 * @returns the axes, and whether these are all that were asked about
 */
export function axesOnGrid(
  from: Vector3,
  offset: Vector3,
  constraint: Constraint,
  axes: Quaternion,
  step: GridStep,
  frame: GridFrame,
  level = false,
): { axes: AxisIndex[]; whole: boolean } {
  if (step.size === 0) return { axes: [], whole: false }
  const turn = step.lattice ? frame.axes : axes
  const all: readonly AxisIndex[] = [0, 1, 2]
  const lines = directionsOf(turn)
  const free = freeAxes(constraint).map(axis => directionsOf(axes)[axis])
  const asked = all.filter(
    axis =>
      free.some(direction => Math.abs(direction.dot(lines[axis])) > 1e-6)
      && !(level && Math.abs(lines[axis].y) > 1 - 1e-6),
  )
  const reached = step.lattice ? from.clone().add(offset).sub(frame.origin) : offset
  const on = asked.filter(
    axis => Math.abs(reached.dot(lines[axis]) - snapToStep(reached.dot(lines[axis]), step.size)) < ON_LINE,
  )
  return { axes: on, whole: on.length === asked.length }
}

/** Number of the component that is largest, whatever its sign. */
function largest(vector: Vector3): number {
  const sizes = vector.toArray().map(Math.abs)
  return sizes.indexOf(Math.max(...sizes))
}

export function tidyVector(vector: Vector3): Vector3 {
  return vector.set(tidy(vector.x), tidy(vector.y), tidy(vector.z))
}
