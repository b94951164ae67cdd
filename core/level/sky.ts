import { z } from 'zod'
import { colorSchema, coordinate } from './fields'

/** The light around a level, by day or by night. */
export const skyFieldsSchema = z.strictObject({
  of: z.enum(['day', 'night']),
  /** What comes from above, and back from the ground, all around. */
  color: colorSchema,
  ground: colorSchema,
  /** Of the ambient light, in lux. */
  ambient: coordinate.min(0, 'cannot be negative'),
  /** Exposure value at ISO 100: higher is darker. */
  exposure: z.number().min(-10, 'must be at least -10').max(25, 'must be at most 25'),
})

export type SkyFields = z.infer<typeof skyFieldsSchema>

/** What a level has while it says nothing else. */
export const FIRST_SKIES: Record<SkyFields['of'], SkyFields> = {
  day: { of: 'day', color: '#eaf2f2', ground: '#b5a585', ambient: 53_000, exposure: 15 },
  night: { of: 'night', color: '#8a9bb0', ground: '#6b4e33', ambient: 24, exposure: 4 },
}

/** The sun that is lent to a level without a light of its own, in lux, and its colour. */
export const WORKING_SUNS: Record<SkyFields['of'], { lux: number; color: string }> = {
  day: { lux: 102_000, color: '#fff1d6' },
  night: { lux: 29, color: '#9db7d6' },
}

/**
 * By how much a luminance is multiplied so that 1 is the brightest that is shown: 1 over 1.2 times 2 to the exposure
 * value (ISO 12232 with a saturation of 78 % and q = 0.65; from memory).
 */
export const exposureFactor = (exposure: number) => 1 / (1.2 * 2 ** exposure)
