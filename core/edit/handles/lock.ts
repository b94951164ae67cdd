import type { LevelAxis, WrittenAxes } from '../../units/height'

export type AxisIndex = LevelAxis

/** What a drag follows: one axis, the plane across one axis (the other two are free), or the plane of the screen. */
export type Constraint = { kind: 'axis'; axis: AxisIndex } | { kind: 'plane'; axis: AxisIndex } | { kind: 'view' }

/** The axes along which a constraint leaves things free; across the view all three are. */
export function freeAxes(constraint: Constraint): AxisIndex[] {
  if (constraint.kind === 'axis') return [constraint.axis]
  return ([0, 1, 2] as const).filter(axis => constraint.kind === 'view' || axis !== constraint.axis)
}

/** What a drag is locked to, in words: "to X", "out of Y". */
export function sayLock(lock: Constraint, axes: WrittenAxes): string {
  if (lock.kind === 'view') return 'to nothing'
  return `${lock.kind === 'axis' ? 'to' : 'out of'} ${axes.letter(lock.axis)}`
}
