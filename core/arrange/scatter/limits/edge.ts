import { z } from 'zod'
import { FARTHEST } from '../../numbers'
import type { LimitDefinition } from './limit'
import { ORDINARY, rangeFields } from './range'

const schema = z.strictObject({ type: z.literal('edge'), ...rangeFields(0, FARTHEST) })
export type EdgeLimit = z.infer<typeof schema>

/** Metres inwards from the edge of the areas or, where none is drawn, of the surfaces. */
export const edge: LimitDefinition<EdgeLimit> = {
  schema,
  name: 'From the edge',
  first: { type: 'edge', from: 0.5, to: FARTHEST, ...ORDINARY },
  quantity: 'length',
  span: [0, FARTHEST],
  measure: (_limit, spot, around, _number, most) => around.edge(spot, most),
}
