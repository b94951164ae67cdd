import { z } from 'zod'
import { coordinate, pointOnSchema } from '../fields'
import type { KindDefinition } from '../kind-definition'

/** The width of the frame of small-picture film, in millimetres. */
const FILM_WIDTH = 36

const own = z
  .strictObject({
    /** Vertical, in degrees. */
    fieldOfView: z.number().min(1, 'must be at least 1°').max(170, 'must be at most 170°'),
    /** Millimetres, for giving the field of view as a focal length. */
    filmWidth: z.number().min(1).max(200).default(FILM_WIDTH),
    /** Width of its picture over its height. */
    aspect: z
      .number()
      .min(0.1)
      .max(10)
      .default(16 / 9),
    /** Metres. */
    near: coordinate.min(0.001, 'must be at least 1 mm').default(0.1),
    far: coordinate.min(0.002).default(1000),
    /** What it stays turned to, while either moves. */
    aim: pointOnSchema.nullable().default(null),
    /** Its place in the cut list, and how long it is shown there; null if it is not in it. */
    cut: z
      .strictObject({ order: coordinate, seconds: z.number().min(0.1, 'must be at least 0.1 s').max(3600) })
      .nullable()
      .default(null),
  })
  .refine(({ near, far }) => near < far, { path: ['far'], message: 'must be farther than near' })

export type CameraOwn = z.infer<typeof own>

/** A point to look from, along -Z as in glTF. */
export const camera: KindDefinition<CameraOwn, true> = {
  own,
  first: { fieldOfView: 50, filmWidth: FILM_WIDTH, aspect: 16 / 9, near: 0.1, far: 1000, aim: null, cut: null },
  name: 'Camera',
  shows: 'nothing',
  isMark: true,
  icon: 'M3 7h11a1 1 0 0 1 1 1v8a1 1 0 0 1-1 1H3a1 1 0 0 1-1-1V8a1 1 0 0 1 1-1zm13.500 4.200L22 7.500v9l-5.500-3.700z',
  extras: own => ({ camera: own }),
}
