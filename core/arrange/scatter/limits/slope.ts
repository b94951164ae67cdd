import { z } from 'zod'
import type { LimitDefinition } from './limit'
import { ORDINARY, rangeFields } from './range'

const schema = z.strictObject({ type: z.literal('slope'), ...rangeFields(0, 180) })
export type SlopeLimit = z.infer<typeof schema>

/** The angle between the surface and the level, in degrees: 0 on a floor, 90 on a wall, 180 on a ceiling. */
export const slope: LimitDefinition<SlopeLimit> = {
  schema,
  name: 'Slope',
  first: { type: 'slope', from: 0, to: 30, ...ORDINARY, soft: 5 },
  quantity: 'angle',
  span: [0, 180],
  measure: (_limit, { normal }) => (Math.acos(Math.min(Math.max(normal[1], -1), 1)) * 180) / Math.PI,
}
