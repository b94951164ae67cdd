import { z } from 'zod'
import type { RuleDefinition } from '../definition'
import { BY_ITSELF, STANDS_STRAIGHT } from '../definition'
import { lineKeys } from '../keys'
import { writePlace } from '../matrices'
import { axis } from '../numbers'

const schema = z.strictObject({
  type: z.literal('mirror'),
  /** Across the plane through the arrangement's own origin, at right angles to this axis of its own. */
  axis,
})

export type MirrorRule = z.infer<typeof schema>

/** The mirror image of each source, beside it. */
export const mirror: RuleDefinition<MirrorRule> = {
  schema,
  first: { type: 'mirror', axis: 0 },
  sideBySide: rule => rule,
  name: 'Mirror',
  countedBy: 'axis',
  count: () => 1,
  most: () => 1,
  firstBeyond: () => null,
  write: (rule, out) => {
    writePlace(out, 0, 0, 0, 0)
    out[rule.axis * 5] = -1
  },
  keys: () => lineKeys(1),
  nameOf: () => 'mirror image',
  grips: () => [],
  drag: rule => ({ rule }),
  gripsOnSurface: false,
  gripText: () => '',
  aroundMiddle: null,
  keepsSources: true,
  remarks: () => [],
  ...STANDS_STRAIGHT,
  ...BY_ITSELF,
  fields: () => [],
}
