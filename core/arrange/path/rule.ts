import { z } from 'zod'
import { count, degrees, metres, place } from '../numbers'

export const pathSchema = z.strictObject({
  type: z.literal('path'),
  /** In the arrangement's axes. */
  points: z.array(place).min(2, 'needs two points').max(500, 'may have 500 points'),
  /** A curve through the points instead of straight lines. */
  smooth: z.boolean(),
  closed: z.boolean(),
  /**
   * `count` spread evenly; `spacing` apart along the path, also said as the `gap` that it leaves; `fit`: as many,
   * spread evenly, as fit at least that far apart; `points`: one at each point; `ends`: pieces end to end, both ends of
   * each on the path.
   */
  measure: z.enum(['count', 'spacing', 'gap', 'fit', 'points', 'ends']),
  count,
  /** Metres along the path; for `ends` the length of a piece, which begins at `begins` along X. */
  spacing: metres.min(0.01, 'must be at least 1 cm'),
  begins: metres,
  /** For `ends`: pieces are sized along the path so that the last one ends where the path does. */
  fitted: z.boolean(),
  /** For `ends` on a path of straight lines: each is laid out by itself, with a copy at each corner between. */
  corners: z
    .strictObject({
      /** Metres left free on either side of a corner. */
      room: metres.min(0, 'must be at least 0'),
      /** Also at both ends of a path that is open. */
      ends: z.boolean(),
    })
    .optional(),
  /**
   * `upright`: turned about the vertical alone; `banked`: leaning with the path's slope; `surface`: with the ground's;
   * `kept`: not turned.
   */
  stand: z.enum(['upright', 'banked', 'surface', 'kept']),
  /** Each copy stands on the ground under or over the path; not those that are bent. */
  hug: z.boolean(),
  /** To the right of the path, and turned about the vertical on the spot. */
  offset: metres,
  turn: degrees,
  /** For `ends`: pieces are bent along the path instead of standing straight. */
  bent: z.boolean(),
})

export type PathRule = z.infer<typeof pathSchema>
