import { z } from 'zod'
import { hash3 } from '../../../math/random'
import { metres } from '../../numbers'
import type { LimitDefinition } from './limit'
import { ORDINARY, rangeFields } from './range'

const schema = z.strictObject({
  type: z.literal('noise'),
  ...rangeFields(0, 1),
  /** Metres from one hill of the noise to the next, about. */
  scale: metres.min(0.01, 'must be at least 1 cm'),
  seed: z.int('must be a whole number').min(0, 'must be at least 0').max(999_999, 'must be at most 999,999'),
})
export type NoiseLimit = z.infer<typeof schema>

/** Patches: smooth hills from 0 to 1 over the surface's own axes, those above the threshold let through. */
export const noise: LimitDefinition<NoiseLimit> = {
  schema,
  name: 'Patches',
  first: { type: 'noise', from: 0.5, to: 1, ...ORDINARY, soft: 0.1, scale: 3, seed: 1 },
  quantity: 'share',
  span: [0, 1],
  measure: ({ scale, seed }, { own: [x, y, z] }) => valueNoise(seed, x / scale, y / scale, z / scale),
}

/**
 * Values by chance at whole numbers, smoothly between them (value noise; common practice), spread so that each share is
 * about as frequent.
 */
function valueNoise(seed: number, x: number, y: number, z: number): number {
  const [i, j, k] = [Math.floor(x), Math.floor(y), Math.floor(z)]
  const ease = (t: number) => t * t * (3 - 2 * t)
  const [u, v, w] = [ease(x - i), ease(y - j), ease(z - k)]
  let sum = 0
  for (let corner = 0; corner < 8; corner++) {
    const [a, b, c] = [corner & 1, (corner >> 1) & 1, corner >> 2]
    sum += ((a ? u : 1 - u) * (b ? v : 1 - v) * (c ? w : 1 - w) * hash3(seed, i + a, j + b, k + c)) / 2 ** 32
  }
  // Weighted means crowd about one half.
  const wide = Math.min(Math.max((sum - 0.5) * 1.6 + 0.5, 0), 1)
  return ease(wide)
}
