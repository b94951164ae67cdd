import { z } from 'zod'
import { colorSchema, coordinate } from '../fields'
import type { KindDefinition } from '../kind-definition'

const own = z.strictObject({
  light: z.enum(['sun', 'point', 'spot']),
  color: colorSchema,
  intensity: coordinate.min(0),
  /** Metres; 0 for no end. */
  range: coordinate.min(0),
})

/** Shines along -Z, or to all sides. */
export const light: KindDefinition<z.infer<typeof own>> = {
  own,
  first: { light: 'point', color: '#fff1d6', intensity: 4, range: 0 },
  name: 'Light',
  shows: 'nothing',
  isMark: true,
  icon: 'M12 8a4 4 0 1 1 0 8 4 4 0 0 1 0-8zM11 2h2v4h-2zm0 16h2v4h-2zM2 11h4v2H2zm16 0h4v2h-4zM4.200 5.600l1.400-1.400L8.500 7 7 8.500zM15.500 17l1.500-1.500 2.800 2.900-1.400 1.400zM4.200 18.400L7 15.500 8.500 17l-2.900 2.800zM15.500 7l2.900-2.800 1.400 1.400L17 8.500z',
  extras: own => ({ light: own }),
}
