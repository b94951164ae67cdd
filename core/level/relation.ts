import { z } from 'zod'
import { coordinate, idSchema, pointOnSchema, vec3Schema } from './fields'

/**
 * What touches the surface: the pivot; the lowest point of the thing and all that hangs from it, its other side dug
 * into a slope; or whatever touches first, so that nothing of it is below the surface.
 */
export const RESTS = ['pivot', 'lowest', 'clear'] as const
export type Rest = (typeof RESTS)[number]

const direction = vec3Schema.refine(([x, y, z]) => Math.abs(x * x + y * y + z * z - 1) < 1e-6, 'must be of unit length')

/** How a thing stays to what holds it, by kind; lengths in metres of the world. */
export const relationRuleSchema = z.discriminatedUnion('kind', [
  /** It rests on the thing, or on whatever it is brought over. */
  z.strictObject({
    kind: z.literal('on'),
    rest: z.enum(RESTS),
    leaning: z.boolean(),
    offset: coordinate,
    /** Only on that thing: moved aside it does not come to rest on another. */
    stays: z.boolean(),
  }),
  /** Its point, on a face of it, lies in the plane of the holder's face, or so far before it. */
  z.strictObject({
    kind: z.literal('flush'),
    /** The way the holder's face looks, in the holder's axes, and that of its own in its. */
    against: direction,
    face: direction,
    /** Whether the two look at each other, or the same way. */
    opposite: z.boolean(),
    gap: coordinate,
    /** Whether it turns along with the face. */
    turns: z.boolean(),
  }),
  /** Its point is so far from the holder's: along a direction of the world, or straight if that is null. */
  z.strictObject({ kind: z.literal('apart'), along: direction.nullable(), distance: coordinate }),
  /** Its point is at a share of the way between two holders' points, or in the middle of more than two. */
  z.strictObject({
    kind: z.literal('between'),
    share: z.number().min(-100).max(100),
    /** On which axes of the world. */
    axes: z.tuple([z.boolean(), z.boolean(), z.boolean()]),
  }),
  /** Its front is turned to the holder's point: about the vertical alone if upright. */
  z.strictObject({ kind: z.literal('facing'), upright: z.boolean() }),
  /** It has the holder's size or turn in the world, or its height, times a number. */
  z.strictObject({
    kind: z.literal('same'),
    of: z.enum(['size', 'turn', 'height']),
    times: z.number().min(1e-6).max(1e6),
  }),
])
export type RelationRule = z.infer<typeof relationRuleSchema>
export type RelationKind = RelationRule['kind']
export type RuleOf<K extends RelationKind> = Extract<RelationRule, { kind: K }>

/** Whether the numbers of a rule are such as can be kept: a share that is not beyond all measure, a finite distance. */
export const isRuleInBounds = (rule: RelationRule): boolean => relationRuleSchema.safeParse(rule).success

/** How many things may hold one. */
export const MOST_HOLDERS = 16

/** A thing that stays as it is to others: whatever moves those moves it. */
export const relationFieldsSchema = z.strictObject({
  /** The thing that follows. */
  held: idSchema,
  /** Its own point that is meant, in its axes. */
  point: vec3Schema,
  /** What it follows, each by a point on it. */
  holders: z.array(pointOnSchema).min(1).max(MOST_HOLDERS),
  rule: relationRuleSchema,
})

/** What is wrong with how many holders a relation has; null if nothing is. */
export function relationProblem({
  rule,
  holders,
}: Pick<z.infer<typeof relationFieldsSchema>, 'rule' | 'holders'>): { path: 'holders'; message: string } | null {
  const isRight = rule.kind === 'between' ? holders.length > 1 : holders.length === 1
  return isRight ? null : { path: 'holders', message: `must be ${rule.kind === 'between' ? '2 or more' : '1'} for it` }
}
