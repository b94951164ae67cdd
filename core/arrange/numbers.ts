import { z } from 'zod'

// The numbers that rules and what goes with them are made of, with their limits.

/** No rule makes more copies than this. */
export const MOST_COPIES = 1_000_000

/** Nothing in a rule is farther than this, in metres. */
export const FARTHEST = 100_000

export const metres = z
  .number({ error: 'must be a number' })
  .min(-FARTHEST, 'must be at least -100 km')
  .max(FARTHEST, 'must be at most 100 km')
export const degrees = z
  .number({ error: 'must be a number' })
  .min(-36_000, 'must be at least -100 turns')
  .max(36_000, 'must be at most 100 turns')
export const factor = z
  .number({ error: 'must be a number' })
  .min(0.001, 'must be at least 0.001')
  .max(1000, 'must be at most 1000')
/** From 0 to 1. */
export const share = z.number().min(0, 'must be at least 0').max(1, 'must be at most 1')
export const count = z
  .int('must be a whole number')
  .min(1, 'must be at least 1')
  .max(MOST_COPIES, 'may be at most a million')
export const place = z.tuple([metres, metres, metres])
export const turns = z.tuple([degrees, degrees, degrees])
/** X, Y or Z. */
export const axis = z.union([z.literal(0), z.literal(1), z.literal(2)])
/** How copies about a middle look: as their source does, away from the middle, or towards it. */
export const facing = z.enum(['kept', 'out', 'in'])

/** Whether an arc comes back to where it began, after one turn or several. */
export const isFullTurn = (arc: number): boolean => arc !== 0 && Math.abs(Math.round(arc / 360) * 360 - arc) < 1e-9

/**
 * The radius at which things beside each other round a middle touch with their inner corners (by the half angle between
 * them).
 *
 * @param pitch degrees from one to the next
 * @param widths of which the largest lies along the arc; metres
 * @param deep how far they reach towards the middle, in metres
 */
export function roundRadius(pitch: number, widths: readonly number[], deep: number): number {
  const half = Math.tan((Math.min(Math.abs(pitch), 170) * Math.PI) / 360)
  return half > 0 ? Math.min(deep / 2 + Math.max(...widths) / (2 * half), FARTHEST) : 0
}

/** The gaps between copies along an arc: all the way round one more lies between the last copy and the first. */
export const gapsAlong = (arc: number, copies: number): number => (isFullTurn(arc) ? copies : copies - 1)
