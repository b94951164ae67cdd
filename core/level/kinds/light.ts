import { z } from 'zod'
import { colorSchema, coordinate, pointOnSchema } from '../fields'
import type { KindDefinition } from '../kind-definition'

export const LIGHT_KINDS = ['sun', 'point', 'spot', 'area'] as const

/** Where on the earth and when a sun stands as it does. */
const sunPlaceSchema = z.strictObject({
  /** Degrees, north and east positive. */
  latitude: z
    .number()
    .min(-90, 'must lie on the earth, from -90° to 90°')
    .max(90, 'must lie on the earth, from -90° to 90°'),
  longitude: z
    .number()
    .min(-180, 'must lie on the earth, from -180° to 180°')
    .max(180, 'must lie on the earth, from -180° to 180°'),
  /** Local time, such as 2026-06-21T12:00, and by how many hours it is ahead of universal time. */
  time: z.iso.datetime({ local: true, precision: -1, error: 'must be a date and a time' }),
  zone: z.number().min(-14).max(14),
  /** Degrees clockwise, seen from above, from -Z to north. */
  north: z.number().min(-360).max(360),
})

const own = z
  .strictObject({
    light: z.enum(LIGHT_KINDS),
    color: colorSchema,
    /** Kelvin, if the colour was chosen by it. */
    temperature: z
      .number()
      .min(1667, 'must be at least 1,667 K')
      .max(25_000, 'must be at most 25,000 K')
      .nullable()
      .default(null),
    /**
     * As in KHR_lights_punctual: lux of a sun, candela of a point or spot light; of an area light candela per square
     * metre.
     */
    intensity: coordinate.min(0, 'cannot be negative'),
    /** Metres; 0 for no end. */
    range: coordinate.min(0, 'cannot be negative'),
    /** Of a spot: from its axis, in degrees, to where it begins to fade and to where it ends. */
    innerCone: z.number().min(0).max(89).default(24),
    outerCone: z.number().min(0.5).max(90).default(36),
    /** Of an area light, in metres. */
    width: z.number().min(0.001, 'must be more than 0').max(1000).default(1),
    height: z.number().min(0.001, 'must be more than 0').max(1000).default(0.5),
    shadow: z.boolean().default(false),
    on: z.boolean().default(true),
    /** Under which of the level's two skies it shines. */
    when: z.enum(['always', 'day', 'night']).default('always'),
    /** What it stays turned to, while either moves. */
    aim: pointOnSchema.nullable().default(null),
    /** Of a sun that is turned by place, date and hour. */
    place: sunPlaceSchema.nullable().default(null),
  })
  .refine(({ innerCone, outerCone }) => innerCone < outerCone, {
    path: ['innerCone'],
    message: 'must be narrower than the outer cone',
  })

export type LightOwn = z.infer<typeof own>
export type SunPlace = z.infer<typeof sunPlaceSchema>

const first: LightOwn = {
  light: 'point',
  color: '#fff1d6',
  temperature: null,
  intensity: 64,
  range: 12,
  innerCone: 24,
  outerCone: 36,
  width: 1,
  height: 0.5,
  shadow: false,
  on: true,
  when: 'always',
  aim: null,
  place: null,
}

/** What a new light of each kind is like: a clear noon; a lamp of 800 lm; a floodlight of 4,000 lm; a soft panel. */
export const FIRST_LIGHTS: Record<LightOwn['light'], LightOwn> = {
  sun: { ...first, light: 'sun', color: '#fff4e2', intensity: 100_000, range: 0, shadow: true },
  point: first,
  spot: { ...first, light: 'spot', intensity: 3333, range: 25, shadow: true },
  area: { ...first, light: 'area', intensity: 1000, range: 10 },
}

/** Shines along -Z, or to all sides. */
export const light: KindDefinition<LightOwn, true> = {
  own,
  first,
  name: 'Light',
  shows: 'nothing',
  isMark: true,
  icon: 'M12 8a4 4 0 1 1 0 8 4 4 0 0 1 0-8zM11 2h2v4h-2zm0 16h2v4h-2zM2 11h4v2H2zm16 0h4v2h-4zM4.200 5.600l1.400-1.400L8.500 7 7 8.500zM15.500 17l1.500-1.500 2.800 2.900-1.400 1.400zM4.200 18.400L7 15.500 8.500 17l-2.900 2.800zM15.500 7l2.900-2.800 1.400 1.400L17 8.500z',
  extras: own => ({ light: own }),
}
