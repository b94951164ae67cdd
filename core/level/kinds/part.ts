import { z } from 'zod'
import type { KindDefinition } from '../kind-definition'

const own = z.strictObject({
  /** By how much its part's lamps shine: 0 for off; as the part has them when left out. */
  lamp: z.number().min(0, 'cannot be negative').max(100).optional(),
})

/** By how much the lamps of what has these fields shine. */
export const strengthOf = (own: object) => ('lamp' in own ? (own.lamp as number) : 1)

/** Shows a part of the kit. */
export const part: KindDefinition<z.infer<typeof own>, false> = {
  own,
  first: {},
  name: 'Part',
  shows: 'part',
  isMark: false,
  icon: 'M12 2l9 5v10l-9 5-9-5V7zm0 2.3L6.6 7.2 12 10.2l5.4-3zM5 8.9v6.9l6 3.3v-6.9zm14 0l-6 3.3v6.9l6-3.3z',
  extras: ({ lamp }) => (lamp === undefined ? {} : { lamp }),
}
