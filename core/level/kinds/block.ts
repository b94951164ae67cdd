import { z } from 'zod'
import type { KindDefinition } from '../kind-definition'

const own = z.strictObject({})

/** Shows a block of the level. */
export const block: KindDefinition<z.infer<typeof own>, false> = {
  own,
  first: {},
  name: 'Block',
  shows: 'block',
  isMark: false,
  icon: 'M4 4h16v16H4zm2 2v12h12V6z',
  extras: () => ({}),
}
