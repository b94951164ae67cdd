import { z } from 'zod'
import { FARTHEST } from '../../numbers'
import type { LimitDefinition } from './limit'
import { ORDINARY, rangeFields } from './range'

const schema = z.strictObject({
  type: z.literal('things'),
  ...rangeFields(0, FARTHEST),
  /**
   * Those chosen, with all below them; everything on a layer; or all parts with a tag. Never the surfaces, nor the
   * copies themselves.
   */
  which: z.discriminatedUnion('by', [
    z.strictObject({ by: z.literal('chosen'), ids: z.array(z.uuid()).max(1000, 'may be 1,000 things') }),
    z.strictObject({ by: z.literal('layer'), layer: z.uuid() }),
    z.strictObject({ by: z.literal('tag'), tag: z.string().min(1, 'needs a tag').max(60) }),
  ]),
})
export type ThingsLimit = z.infer<typeof schema>

/** Metres to the nearest of other things, by their real surfaces. */
export const things: LimitDefinition<ThingsLimit> = {
  schema,
  name: 'From other things',
  first: { type: 'things', from: 0.5, to: FARTHEST, ...ORDINARY, which: { by: 'chosen', ids: [] } },
  quantity: 'length',
  span: [0, FARTHEST],
  measure: (_limit, spot, around, number, most) => around.things(number, spot, most),
}
