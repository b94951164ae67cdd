import type { Vec3 } from '../math/vectors'
import { tidy } from '../units/quantity'
import { putValue, valueAt } from '../units/field'
import type { RuleNumber } from './fields'
import type { Rule } from './rules'
import { definitionOf } from './rules'
import { widthAlong } from './width'

/**
 * What a number of a rule leaves free between copies.
 *
 * @param value as the rule has it: metres, or a way
 * @param size of the sources, along X, Y, Z
 */
export function gapIn({ beyond }: RuleNumber, value: number | Vec3, size: Vec3): number {
  if (typeof value === 'number') return tidy(Math.abs(value) - widest(beyond, size))
  return tidy(Math.hypot(...value) - widthAlong(value, size))
}

/** The number with which so much is left free, the same way as before. A way of no length goes along X. */
export function withGap({ beyond }: RuleNumber, value: number | Vec3, gap: number, size: Vec3): number | Vec3 {
  if (typeof value === 'number') return tidy((value < 0 ? -1 : 1) * (gap + widest(beyond, size)))
  const length = Math.hypot(...value)
  const way: Vec3 = length > 0 ? (value.map(part => part / length) as Vec3) : [1, 0, 0]
  return way.map(part => tidy(part * (gap + widthAlong(way, size)))) as Vec3
}

/** What is wrong with a gap, or nothing: with as much overlap copies would stand in one place, or go the other way. */
export function wrongGap({ beyond }: RuleNumber, value: number | Vec3, gap: number, size: Vec3): string | null {
  const width = typeof value === 'number' ? widest(beyond, size) : widthAlong(value, size)
  return gap + width > 0 ? null : 'All would stand in one place.'
}

/** A rule whose gaps stay as they are when its sources come to be of another size. */
export function keepGaps(rule: Rule, before: Vec3, after: Vec3): Rule {
  return definitionOf(rule)
    .fields(rule)
    .reduce((next, field) => {
      if (field.type !== 'number' || !field.beyond) return next
      const at = (valueAt(next, field.path) ?? field.otherwise) as number | Vec3 | undefined
      return at === undefined ? next : putValue(next, field.path, withGap(field, at, gapIn(field, at, before), after))
    }, rule)
}

const widest = (axes: RuleNumber['beyond'], size: Vec3) =>
  Array.isArray(axes) ? Math.max(...(axes as number[]).map(axis => size[axis]!)) : 0
