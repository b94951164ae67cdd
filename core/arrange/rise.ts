import { z } from 'zod'
import { chanceAt } from '../math/random'
import { count, metres, share } from './numbers'
import { parseRise } from './rise-expression'

/** The height of each row. */
export const riseSchema = z.discriminatedUnion('by', [
  /** So much more for each `every` rows. */
  z.strictObject({ by: z.literal('rows'), height: metres, every: count }),
  /** A curve from the first row (0) to the last (1): points of place and height, straight or smooth between them. */
  z.strictObject({
    by: z.literal('profile'),
    points: z
      .array(z.tuple([share, metres]))
      .min(2, 'needs two points')
      .max(50, 'may have 50 points'),
    smooth: z.boolean(),
  }),
  /** Metres worked out for each copy, as in `0.3 * row + 0.1 * random`. */
  z.strictObject({
    by: z.literal('expression'),
    text: z
      .string()
      .min(1, 'must not be empty')
      .max(300, 'may be 300 characters long')
      .superRefine((text, context) => {
        const parsed = parseRise(text)
        if (!parsed.ok) context.addIssue({ code: 'custom', message: parsed.error })
      }),
  }),
])

export type Rise = z.infer<typeof riseSchema>

/** How many rows, columns and layers there are. */
export type RiseExtent = { rows: number; columns: number; layers: number; count: number }

/** @returns the height of a copy by its row, column, layer and index */
export function riseOf(
  rise: Rise,
  { rows, columns, layers, count }: RiseExtent,
): (row: number, column: number, layer: number, index: number) => number {
  if (rise.by === 'rows') return row => Math.floor(row / rise.every) * rise.height
  if (rise.by === 'profile') {
    const points = [...rise.points].sort((a, b) => a[0] - b[0])
    return row => heightAt(points, shareOf(row, rows), rise.smooth)
  }
  const parsed = parseRise(rise.text)
  if (!parsed.ok) return () => 0
  const usesChance = rise.text.includes('random')
  // One object for all copies: there may be a million.
  const values = { row: 0, column: 0, layer: 0, index: 0, count, along: 0, across: 0, up: 0, random: 0 }
  return (row, column, layer, index) => {
    values.row = row
    values.column = column
    values.layer = layer
    values.index = index
    values.along = shareOf(row, rows)
    values.across = shareOf(column, columns)
    values.up = shareOf(layer, layers)
    if (usesChance) values.random = chanceAt('rise', 0, row, column, layer).share()
    return parsed.heightOf(values)
  }
}

const shareOf = (at: number, of: number) => (of > 1 ? at / (of - 1) : 0)

/**
 * The height of a profile at a place from 0 to 1. Smooth is a monotone cubic (Fritsch and Carlson 1980): it never rises
 * above or falls below the points at its sides.
 *
 * @param points in order of their places
 */
export function heightAt(points: readonly (readonly [number, number])[], at: number, smooth: boolean): number {
  const after = points.findIndex(([place]) => place >= at)
  if (after === 0) return points[0]![1]
  if (after < 0) return points.at(-1)![1]
  const [[x0, y0], [x1, y1]] = [points[after - 1]!, points[after]!]
  const [width, t] = [x1 - x0, (at - x0) / (x1 - x0)]
  if (!smooth) return y0 + (y1 - y0) * t
  const [m0, m1] = [slopeAt(points, after - 1), slopeAt(points, after)]
  // Cubic Hermite between the two.
  return (
    y0 * (1 + 2 * t) * (1 - t) ** 2
    + m0 * width * t * (1 - t) ** 2
    + y1 * t * t * (3 - 2 * t)
    + m1 * width * t * t * (t - 1)
  )
}

/** The slope at a point that keeps the curve monotone on both of its sides: the harmonic mean of theirs. */
function slopeAt(points: readonly (readonly [number, number])[], i: number): number {
  const slope = (k: number) => {
    const [[x0, y0], [x1, y1]] = [points[k]!, points[k + 1]!]
    return x1 > x0 ? (y1 - y0) / (x1 - x0) : 0
  }
  if (i === 0) return slope(0)
  if (i === points.length - 1) return slope(i - 1)
  const [before, after] = [slope(i - 1), slope(i)]
  return before * after <= 0 ? 0 : (2 * before * after) / (before + after)
}
