import { z } from 'zod'
import { MOST_COPIES, mostOf } from './count'
import { firstBeyondRange } from './range'
import { parseRise } from './rise-expression'

const metres = z.number({ error: 'must be a number' }).min(-100_000, 'must be at least -100 km').max(100_000, 'must be at most 100 km')
const degrees = z.number({ error: 'must be a number' }).min(-36_000, 'must be at least -100 turns').max(36_000, 'must be at most 100 turns')
const factor = z.number({ error: 'must be a number' }).min(0.001, 'must be at least 0.001').max(1000, 'must be at most 1000')
const count = z.int('must be a whole number').min(1, 'must be at least 1').max(MOST_COPIES, 'may be at most a million')
const vec3 = z.tuple([metres, metres, metres])
const turns = z.tuple([degrees, degrees, degrees])
const three = z.union([z.literal(0), z.literal(1), z.literal(2)])

const points = z.array(vec3)
const turnsAbout = z.enum(['kept', 'out', 'in'])

/** The height of each row. */
export const riseSchema = z.discriminatedUnion('by', [
  /** So much more for each `every` rows. */
  z.strictObject({ by: z.literal('rows'), height: metres, every: count }),
  /** A curve from the first row (0) to the last (1): points of place and height, straight or smooth between them. */
  z.strictObject({
    by: z.literal('profile'),
    points: z.array(z.tuple([z.number().min(0, 'must be between 0 and 1').max(1, 'must be between 0 and 1'), metres])).min(2, 'needs two points').max(50, 'may have 50 points'),
    smooth: z.boolean(),
  }),
  /** Metres worked out for each copy, as in `0.3 * row + 0.1 * random`. */
  z.strictObject({
    by: z.literal('expression'),
    text: z.string().min(1, 'must not be empty').max(300, 'may be 300 characters long').superRefine((text, context) => {
      const parsed = parseRise(text)
      if (!parsed.ok) context.addIssue({ code: 'custom', message: parsed.error })
    }),
  }),
])

export const lineSchema = z.strictObject({
  rule: z.literal('line'),
  count,
  /** From one copy to the next (`spacing`), or from the first to the last (`span`, `fit`). */
  along: vec3,
  /** `spacing`; `span`: as many as `count` between both ends; `fit`: as many as fit in the span at no less than `least`. */
  measure: z.enum(['spacing', 'span', 'fit']),
  least: z.number().min(0.001, 'must be at least 1 mm').max(100_000),
  /** Of each gap to the one before. */
  ratio: factor,
  centred: z.boolean(),
  /** Degrees about X, Y, Z for each step. */
  turn: turns,
  /** For each step. */
  size: factor,
  /** `world`: steps along the arrangement's axes; `local`: along those of the copy before, as a spiral climbs. */
  axes: z.enum(['world', 'local']),
})

export const gridSchema = z.strictObject({
  rule: z.literal('grid'),
  /** Along X (columns), Y (layers), Z (rows). */
  counts: z.tuple([count, count, count]),
  /** Between neighbours along X, Y, Z, or from the first to the last. */
  spacing: vec3,
  measure: z.enum(['spacing', 'span']),
  /** Shift of every other row, as a share of the spacing along X. */
  stagger: z.number().min(0, 'must be at least 0').max(1, 'must be at most 1'),
  /** Every other layer is shifted as well, as bricks are laid. */
  bond: z.boolean(),
  centred: z.boolean(),
  rise: riseSchema,
})

export const ringSchema = z.strictObject({
  rule: z.literal('ring'),
  count,
  /** Metres from the middle, which is the arrangement's pivot. */
  radius: metres,
  axis: three,
  /** Degrees. A full ring has no copy on top of the first; of a part both ends have one. */
  start: degrees,
  arc: degrees,
  facing: turnsAbout,
  /** Metres along the axis, degrees about the axis on the spot, and factor of size, for each step. */
  rise: metres,
  turn: degrees,
  size: factor,
})

export const fanSchema = z.strictObject({
  rule: z.literal('fan'),
  rows: count,
  /** Copies in the first row. */
  first: count,
  /** Of the first row, from the middle, and what each further row adds. */
  radius: metres,
  depth: metres,
  /** Degrees that the rows span about the vertical, in the middle of which lies +Z. */
  arc: degrees,
  /** The same count in each row; as many as stand at the first row's spacing along the arc; or as given. */
  counts: z.enum(['same', 'spacing', 'given']),
  /** For `given`: of each row; rows beyond the last one have as many as that. */
  given: z.array(count).min(1, 'needs a number').max(1000, 'may have 1000 numbers'),
  /** Shift of every other row, as a share of the spacing along its arc. */
  stagger: z.number().min(0, 'must be at least 0').max(1, 'must be at most 1'),
  facing: turnsAbout,
  rise: riseSchema,
})

export const pathSchema = z.strictObject({
  rule: z.literal('path'),
  /** In the arrangement's axes. */
  points: points.min(2, 'needs two points').max(500, 'may have 500 points'),
  /** A curve through the points instead of straight lines. */
  smooth: z.boolean(),
  closed: z.boolean(),
  /** `count` spread evenly; `spacing` apart along the path; `points`: one at each point; `ends`: pieces end to end, both ends of each on the path. */
  measure: z.enum(['count', 'spacing', 'points', 'ends']),
  count,
  /** Metres along the path; for `ends` the length of a piece, which begins at `begins` along X. */
  spacing: z.number().min(0.01, 'must be at least 1 cm').max(100_000, 'must be at most 100 km'),
  begins: metres,
  /** For `ends`: pieces are sized along the path so that the last one ends where the path does. */
  fitted: z.boolean(),
  /** For `ends` on a path of straight lines: each is laid out by itself, with a copy at each corner between. */
  corners: z.strictObject({
    /** Metres left free on either side of a corner. */
    room: z.number({ error: 'must be a number' }).min(0, 'must be at least 0').max(100_000, 'must be at most 100 km'),
    /** Also at both ends of a path that is open. */
    ends: z.boolean(),
  }).optional(),
  /** `upright`: turned about the vertical alone; `banked`: leaning with the path's slope; `surface`: with the ground's; `kept`: not turned. */
  stand: z.enum(['upright', 'banked', 'surface', 'kept']),
  /** Each copy stands on the ground under or over the path; not those that are bent. */
  hug: z.boolean(),
  /** To the right of the path, and turned about the vertical on the spot. */
  offset: metres,
  turn: degrees,
  /** For `ends`: pieces are bent along the path instead of standing straight. */
  bent: z.boolean(),
})

export const mirrorSchema = z.strictObject({
  rule: z.literal('mirror'),
  /** Across the plane through the arrangement's own origin, at right angles to this axis of its own. */
  axis: three,
})

export const ruleSchema = z.discriminatedUnion('rule', [lineSchema, gridSchema, ringSchema, fanSchema, pathSchema, mirrorSchema]).superRefine((rule, context) => {
  // Numbers that are no good already are not worked with.
  if (context.issues.length > 0) return
  const copies = mostOf(rule)
  if (copies > MOST_COPIES) {
    context.addIssue({ code: 'custom', path: [rule.rule === 'grid' ? 'counts' : rule.rule === 'fan' ? 'rows' : 'count'], message: `would make ${copies.toLocaleString('en')} copies; a million is the most` })
    return
  }
  const beyond = firstBeyondRange(rule)
  if (beyond !== null) context.addIssue({ code: 'custom', path: ['size'], message: `would make copy ${beyond + 1} larger, smaller or farther away than can be worked with` })
})

export type Rise = z.infer<typeof riseSchema>
export type LineRule = z.infer<typeof lineSchema>
export type GridRule = z.infer<typeof gridSchema>
export type RingRule = z.infer<typeof ringSchema>
export type FanRule = z.infer<typeof fanSchema>
export type PathRule = z.infer<typeof pathSchema>
export type MirrorRule = z.infer<typeof mirrorSchema>
export type Rule = z.infer<typeof ruleSchema>
export type RuleKind = Rule['rule']

export const RULE_KINDS: readonly RuleKind[] = ['line', 'grid', 'ring', 'fan', 'path', 'mirror']

/** A rule of each kind as it comes. */
export const FIRST_RULES: { [K in RuleKind]: Extract<Rule, { rule: K }> } = {
  line: { rule: 'line', count: 5, along: [1.5, 0, 0], measure: 'spacing', least: 1, ratio: 1, centred: false, turn: [0, 0, 0], size: 1, axes: 'world' },
  grid: { rule: 'grid', counts: [4, 1, 3], spacing: [1.5, 1.5, 1.5], measure: 'spacing', stagger: 0, bond: false, centred: false, rise: { by: 'rows', height: 0, every: 1 } },
  ring: { rule: 'ring', count: 8, radius: 3, axis: 1, start: 0, arc: 360, facing: 'out', rise: 0, turn: 0, size: 1 },
  fan: { rule: 'fan', rows: 4, first: 9, radius: 5, depth: 1.2, arc: 120, counts: 'same', given: [9], stagger: 0, facing: 'in', rise: { by: 'rows', height: 0.3, every: 1 } },
  path: { rule: 'path', points: [[0, 0, 0], [6, 0, 0]], smooth: true, closed: false, measure: 'count', count: 7, spacing: 1, begins: -0.5, fitted: true, stand: 'upright', hug: false, offset: 0, turn: 0, bent: false },
  mirror: { rule: 'mirror', axis: 0 },
}
