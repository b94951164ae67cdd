import { z } from 'zod'
import { edge } from './limits/edge'
import { height } from './limits/height'
import type { Around, LimitDefinition, LimitRange, Spot } from './limits/limit'
import { noise } from './limits/noise'
import { shareThrough } from './limits/range'
import { slope } from './limits/slope'
import { things } from './limits/things'

/** Every kind of limit, in the order people are shown them. A further one is a file and a line here. */
export const LIMITS = { slope, height, things, edge, noise }

export type LimitType = keyof typeof LIMITS
export type Limit = (typeof LIMITS)[LimitType]['first']
export const LIMIT_TYPES = Object.keys(LIMITS) as LimitType[]

export function limitDefinition<L extends Limit>(limit: L): LimitDefinition<L> {
  // Which of the definitions it is depends on the limit's type alone; TypeScript does not follow that.
  return LIMITS[limit.type] as unknown as LimitDefinition<L>
}

const [first, ...others] = Object.values(LIMITS).map(({ schema }) => schema)

export const limitSchema: z.ZodType<Limit> = z
  .discriminatedUnion('type', [first!, ...others])
  .refine(({ from, to }: LimitRange) => from <= to, {
    path: ['from'],
    message: 'must not be above "to"',
  }) as unknown as z.ZodType<Limit>

/** How much a limit lets through at a spot, from 0 to 1. @param number of the limit among those of its rule */
export function limitShare(limit: Limit, number: number, spot: Spot, around: Around): number {
  if (limit.off) return 1
  const { measure } = limitDefinition(limit)
  // Beyond this all values are let through alike.
  const most = (limit.to >= limitDefinition(limit).span[1] ? limit.from : limit.to) + limit.soft
  return shareThrough(limit, measure(limit, spot, around, number, Math.max(most, 1e-6) * 1.0001))
}
