import { z } from 'zod'
import { flag, scopeSchema } from '../out/scope'
import { VIEWS } from './view'

/** Trimmed sizes of the A series in millimetres, the longer side first (ISO 216:2007). */
export const PAPERS = { A4: [297, 210], A3: [420, 297], A2: [594, 420], A1: [841, 594] } as const
export type Paper = keyof typeof PAPERS

/** How a plan sheet is drawn. */
export const planOptionsSchema = scopeSchema.extend({
  view: z.enum(VIEWS).default('top'),
  /** One metre is drawn so many times smaller; `fit` for the largest usual scale at which all of it fits. */
  scale: z.union([z.literal('fit'), z.coerce.number().pipe(z.number().min(1).max(100_000))]).default('fit'),
  paper: z.enum(['A4', 'A3', 'A2', 'A1']).default('A3'),
  upright: flag(false),
  /**
   * Metres along the line of sight (heights, seen from above) beyond which things are cut away; nothing is when left
   * out.
   */
  cut: z.coerce.number().pipe(z.number().min(-1e6).max(1e6)).optional(),
  names: flag(true),
  measures: flag(true),
  legend: flag(true),
  /** A sheet more with the bill of parts; in PDF alone. */
  bill: flag(false),
  hidden: flag(false),
})

export type PlanOptions = z.output<typeof planOptionsSchema>

/** Usual scales (ISO 5455:1979), and steps between them where no other fits. */
export const USUAL_SCALES = [
  1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000, 50_000, 100_000,
] as const
