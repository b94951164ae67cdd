import { z } from 'zod'
import { FARTHEST } from '../../numbers'
import type { LimitDefinition } from './limit'
import { ORDINARY, rangeFields } from './range'

const schema = z.strictObject({ type: z.literal('height'), ...rangeFields(-FARTHEST, FARTHEST) })
export type HeightLimit = z.infer<typeof schema>

/** Metres above the ground plane. */
export const height: LimitDefinition<HeightLimit> = {
  schema,
  name: 'Height',
  first: { type: 'height', from: 0, to: 10, ...ORDINARY },
  quantity: 'length',
  span: [-FARTHEST, FARTHEST],
  measure: (_limit, { y }) => y,
}
