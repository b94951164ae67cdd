import { z } from 'zod'
import { coordinate, nameSchema, pointOnSchema, thingIdSchema } from './fields'

/** What a kept measure needs: the least and the most ends, and what each of its sides of things may hold. */
type Needs = { ends: readonly [least: number, most: number]; sides: readonly [least: number, most: number] }

/** Every kind of measure that is kept in a level. What each measures is worked out in `core/measure`. */
const MEASURE_NEEDS = {
  tape: { ends: [2, 1000], sides: [0, 0] },
  angle: { ends: [3, 4], sides: [0, 0] },
  slope: { ends: [2, 3], sides: [0, 0] },
  area: { ends: [1, 1000], sides: [0, 0] },
  height: { ends: [1, 1], sides: [0, 0] },
  clearance: { ends: [0, 0], sides: [1, 200] },
  length: { ends: [0, 0], sides: [1, 1] },
} as const satisfies Record<string, Needs>

export type MeasureKind = keyof typeof MEASURE_NEEDS
export const MEASURE_KINDS = Object.keys(MEASURE_NEEDS) as [MeasureKind, ...MeasureKind[]]

export const measureFieldsSchema = z.strictObject({
  name: nameSchema,
  order: coordinate,
  hidden: z.boolean(),
  kind: z.enum(MEASURE_KINDS),
  ends: z.array(pointOnSchema).max(1000),
  /** The things that it is between, or of. */
  sides: z.array(z.array(thingIdSchema).min(1).max(200)).max(2),
  /** Of an area by one end: with all flat faces that meet it. */
  connected: z.boolean(),
})

/** What is wrong with how many ends and sides a measure has; null if nothing is. */
export function measureProblem({
  kind,
  ends,
  sides,
}: Pick<z.infer<typeof measureFieldsSchema>, 'kind' | 'ends' | 'sides'>): {
  path: 'ends' | 'sides'
  message: string
} | null {
  const {
    ends: [least, most],
    sides: [some],
  } = MEASURE_NEEDS[kind]
  if (ends.length < least || ends.length > most || (kind === 'area' && ends.length === 2))
    return {
      path: 'ends',
      message: `must be ${least === most ? least : `${least} to ${most}`} for ${kind}${kind === 'area' ? ', and not 2' : ''}`,
    }
  const sidesWanted = some === 0 ? 0 : kind === 'clearance' ? 2 : 1
  return sides.length === sidesWanted ? null : { path: 'sides', message: `must be ${sidesWanted} for ${kind}` }
}
