import { z } from 'zod'
import type { LimitRange } from './limit'

/** The fields that every limit has. @param least and most of its values */
export function rangeFields(least: number, most: number) {
  const value = z
    .number({ error: 'must be a number' })
    .min(least, `must be at least ${least}`)
    .max(most, `must be at most ${most.toLocaleString('en')}`)
  return {
    from: value,
    to: value,
    soft: z
      .number({ error: 'must be a number' })
      .min(0, 'must be at least 0')
      .max(most - least, 'is more than there is'),
    invert: z.boolean(),
    off: z.boolean(),
  }
}

export const ORDINARY = { soft: 0, invert: false, off: false }

/** How much of a value a limit lets through, from 0 to 1: all from `from` to `to`, none farther than `soft` outside. */
export function shareThrough({ from, to, soft, invert }: LimitRange, value: number): number {
  const outside = value < from ? from - value : value > to ? value - to : 0
  let share = outside === 0 ? 1 : 0
  if (outside > 0 && outside < soft) {
    const t = 1 - outside / soft
    share = t * t * (3 - 2 * t)
  }
  return invert ? 1 - share : share
}
