import type { z } from 'zod'
import type { FieldQuantity } from '../../../units/field'

/** A place where a copy may stand, as limits look at it. */
export type Spot = {
  /** In the world. */
  x: number
  y: number
  z: number
  /** The surface's normal, of unit length, in the world. */
  normal: readonly [number, number, number]
  /** In the surface's own axes, in metres of the world, so that what depends on it moves with the surface. */
  own: readonly [number, number, number]
}

/** What limits can ask about the surroundings of a spot. */
export type Around = {
  /** Metres to the edge of the areas or, without any, of the surfaces; never more than `most`. */
  edge: (spot: Spot, most: number) => number
  /** Metres to the things of the limit of a number; never more than `most`. */
  things: (limit: number, spot: Spot, most: number) => number
}

/** What every limit has: the values that are let through, which fade in over `soft` outside of them. */
export type LimitRange = { from: number; to: number; soft: number; invert: boolean; off: boolean }

/** All there is to know about one kind of limit. */
export type LimitDefinition<L extends { type: string } & LimitRange> = {
  schema: z.ZodObject & z.ZodType<L>
  name: string
  /** One as it comes. */
  first: L
  quantity: FieldQuantity
  /** The least and the most that make sense. */
  span: readonly [number, number]
  /**
   * The value at a spot. @param number of the limit among those of its rule
   * @param most no more needs to be known
   */
  measure: (limit: L, spot: Spot, around: Around, number: number, most: number) => number
}
