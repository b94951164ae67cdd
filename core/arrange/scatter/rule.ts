import { Matrix4 } from 'three'
import { z } from 'zod'
import { count, degrees, factor, metres, place, share } from '../numbers'
import { crossing } from './crossing'
import { limitSchema } from './limits'

/**
 * What surfaces are named by within a scatter, for good: what is dealt on one depends on it. 0 is for what is put down
 * by hand.
 */
const stream = z.int().min(1).max(999_999)
const thing = z.uuid()
const seed = z.int('must be a whole number').min(0, 'must be at least 0').max(999_999, 'must be at most 999,999')
const length = metres.min(0, 'must be at least 0')

/** Two numbers of which the first is not above the second. */
export const range = <T extends z.ZodNumber>(number: T) =>
  z.tuple([number, number]).refine(([from, to]) => from! <= to!, 'must not begin above its end')

/** Whether numbers are a frame that there is a way back from: nothing is flattened, and nothing seen in perspective. */
function isFrame(m: readonly number[]): boolean {
  if (m.length !== 16) return false
  const matrix = new Matrix4().fromArray(m)
  const volume = Math.abs(matrix.determinant())
  return (
    volume > 1e-12
    && volume < 1e12
    && [0, 0, 0, 1].every((value, row) => Math.abs(matrix.elements[row * 4 + 3]! - value) < 1e-9)
  )
}

/** A region of the surfaces: straight through them along the height axis, or, with `facing` normals, along its own. */
export const areaSchema = z
  .strictObject({
    /** `loop`: what is inside; `band`: what is within half of `width` beside a path through the points. */
    type: z.enum(['loop', 'band']),
    /** Taken away instead. */
    hole: z.boolean(),
    /** In the arrangement's axes. */
    points: z.array(place).min(2, 'needs two points').max(500, 'may have 500 points'),
    /** Metres; of a band. */
    width: length,
    /**
     * The surface that it was drawn on and goes along with, by its stream and what it is named by in that; and the
     * frame that the surface had then, in the arrangement's axes: sixteen numbers, column by column. Without it, it
     * goes along with the arrangement.
     */
    lies: z
      .strictObject({
        on: stream,
        below: z.int().min(0).max(0xffffffff),
        frame: z
          .array(z.number().min(-1e6).max(1e6))
          .length(16, 'must be sixteen numbers')
          .refine(isFrame, 'must be a frame'),
      })
      .optional(),
  })
  .superRefine(({ type, points, width }, context) => {
    if (type === 'band' && width === 0)
      context.addIssue({ code: 'custom', path: ['width'], message: 'must be more than 0' })
    if (type === 'loop' && points.length < 3)
      context.addIssue({ code: 'custom', path: ['points'], message: 'needs three points' })
    else if (type === 'loop' && crossing(points))
      context.addIssue({ code: 'custom', path: ['points'], message: 'cross themselves' })
  })

/** One stroke of the brush over a surface. */
const strokeSchema = z.strictObject({
  /** The stream of the surface it lies on. */
  on: stream,
  /** Which of the things below that, or of its copies; 0 for itself. */
  below: z.int().min(0).max(0xffffffff),
  does: z.enum(['add', 'remove', 'soften']),
  /** In that thing's own axes, in metres of the world: its size is taken out. */
  points: z.array(place).min(1).max(2000),
  radius: metres.min(0.01, 'must be at least 1 cm'),
  strength: share,
})

/** How one source comes. */
const ingredientSchema = z.strictObject({
  source: thing,
  /** What its chances are drawn by, for good. */
  stream,
  weight: z.number({ error: 'must be a number' }).min(0, 'must be at least 0').max(1000, 'must be at most 1000'),
  /** Factors, along all axes alike. */
  size: range(factor),
  /** Factors along each axis by itself besides, drawn apart from each other. */
  sizes: z.tuple([range(factor), range(factor), range(factor)]).optional(),
  /** About its own upright: anyhow, in steps of `step` degrees, or as the source stands. */
  turn: z.enum(['free', 'steps', 'kept']),
  step: degrees.min(1, 'must be at least 1 degree').max(360, 'must be at most 360 degrees'),
  /** From upright, 0, to wholly with the surface, 1. */
  lean: share,
  /** Degrees from there at most, any way. */
  tilt: degrees.min(0, 'must be at least 0').max(90, 'must be at most 90 degrees'),
  /** Metres above the surface, along its own upright; below 0 it is sunk. */
  height: range(metres),
  /** Metres that it keeps free around it at size 1; from its footprint when left out. */
  room: length.optional(),
})

/** A copy put down by hand: where on which thing. */
export const addedSchema = z.strictObject({
  on: stream,
  below: z.int().min(0).max(0xffffffff),
  /** In that thing's own axes, in metres of the world. */
  at: place,
  up: place,
  source: thing,
})

const corners = (all: readonly { points: readonly unknown[] }[]) =>
  all.reduce((sum, { points }) => sum + points.length, 0)

/** Parts over surfaces. */
export const scatterSchema = z.strictObject({
  type: z.literal('scatter'),
  seed,
  /** The things whose surfaces are meant, with all below them. */
  on: z.array(z.strictObject({ id: thing, stream })).max(1000, 'may be 1,000 surfaces'),
  /** The ground plane, at height 0, as well, within areas. */
  plane: z.boolean(),
  /** `above`: what is seen from above; `normals`: every side, along its own normal. */
  facing: z.enum(['above', 'normals']),
  areas: z
    .array(areaSchema)
    .max(100, 'may be 100 areas')
    .refine(all => corners(all) <= 5000, 'may have 5,000 corners in all'),
  /** A number of copies, or so many per square metre. */
  measure: z.enum(['count', 'density']),
  count,
  density: z
    .number({ error: 'must be a number' })
    .min(0.000001, 'must be more than 0')
    .max(10_000, 'must be at most 10,000'),
  /** Metres between the places of two copies at least; 0 for none. */
  apart: length.max(10_000, 'must be at most 10 km'),
  /** Whether copies keep the room free that each needs. */
  keepRoom: z.boolean(),
  spread: z.enum(['even', 'free', 'clumps']),
  clump: z.strictObject({
    /** Metres across. */
    size: metres.min(0.01, 'must be at least 1 cm').max(10_000, 'must be at most 10 km'),
    /** Of all copies, those that are in clumps. */
    share,
  }),
  mix: z.array(ingredientSchema).max(100, 'may be 100 sources'),
  limits: z.array(limitSchema).max(20, 'may be 20 limits'),
  paint: z.strictObject({
    /** Where nothing is painted. */
    begins: z.enum(['everywhere', 'nowhere']),
    strokes: z
      .array(strokeSchema)
      .max(2000, 'may be 2,000 strokes')
      .refine(all => corners(all) <= 20_000, 'may have 20,000 points in all'),
  }),
})

export type ScatterRule = z.infer<typeof scatterSchema>
export type Area = z.infer<typeof areaSchema>
export type Stroke = z.infer<typeof strokeSchema>
export type Ingredient = z.infer<typeof ingredientSchema>
export type Added = z.infer<typeof addedSchema>

/** An ingredient as it comes. */
export const FIRST_INGREDIENT: Omit<Ingredient, 'source' | 'stream'> = {
  weight: 1,
  size: [0.8, 1.2],
  turn: 'free',
  step: 90,
  lean: 0,
  tilt: 0,
  height: [0, 0],
}

/** A number for a further surface or source. */
export const nextStream = (all: readonly { stream: number }[]): number =>
  all.reduce((most, { stream: each }) => Math.max(most, each), 0) + 1
