import { z } from 'zod'
import type { KindDefinition } from '../kind-definition'

const own = z.strictObject({
  /** Vertical, in degrees. */
  fieldOfView: z.number().min(20).max(110),
})

/** A point to look from, along -Z as in glTF. */
export const camera: KindDefinition<z.infer<typeof own>> = {
  own,
  first: { fieldOfView: 50 },
  name: 'Camera',
  shows: 'nothing',
  isMark: true,
  icon: 'M3 7h11a1 1 0 0 1 1 1v8a1 1 0 0 1-1 1H3a1 1 0 0 1-1-1V8a1 1 0 0 1 1-1zm13.500 4.200L22 7.500v9l-5.500-3.700z',
  extras: ({ fieldOfView }) => ({ camera: { fieldOfView } }),
}
