import { z } from 'zod'
import type { KindDefinition } from '../kind-definition'

const own = z.strictObject({
  /** A click on what is inside picks that at once, not the whole group. */
  open: z.boolean().optional(),
})

/** Only holds others together. */
export const group: KindDefinition<z.infer<typeof own>, false> = {
  own,
  first: {},
  name: 'Group',
  shows: 'nothing',
  isMark: false,
  icon: 'M3 3h6v2H5v14h4v2H3zm12 0h6v18h-6v-2h4V5h-4zM9 9h6v6H9z',
  extras: () => ({}),
}
