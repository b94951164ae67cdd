import { z } from 'zod'

/** No rule makes more copies than this. */
export const MOST_COPIES = 1_000_000

const metres = z.number({ error: 'must be a number' }).min(-100_000, 'must be at least -100 km').max(100_000, 'must be at most 100 km')
const degrees = z.number({ error: 'must be a number' }).min(-36_000, 'must be at least -100 turns').max(36_000, 'must be at most 100 turns')
const factor = z.number({ error: 'must be a number' }).min(0.001, 'must be at least 0.001').max(1000, 'must be at most 1000')
const count = z.int('must be a whole number').min(1, 'must be at least 1').max(MOST_COPIES, 'may be at most a million')
const vec3 = z.tuple([metres, metres, metres])
const turns = z.tuple([degrees, degrees, degrees])
const three = z.union([z.literal(0), z.literal(1), z.literal(2)])

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
  /** Between neighbours along X, Y, Z. */
  spacing: vec3,
  /** Shift of every other row, as a share of the spacing along X. */
  stagger: z.number().min(0, 'must be at least 0').max(1, 'must be at most 1'),
  /** Every other layer is shifted as well, as bricks are laid. */
  bond: z.boolean(),
  centred: z.boolean(),
  /** Height gained for each `every` rows. */
  rise: metres,
  every: count,
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
  facing: z.enum(['kept', 'out', 'in']),
  /** Metres along the axis, and factor of size, for each step. */
  rise: metres,
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
  /** The same count in each row, or as many as stand at the first row's spacing along the arc. */
  counts: z.enum(['same', 'spacing']),
  /** Shift of every other row, as a share of the spacing along its arc. */
  stagger: z.number().min(0).max(1),
  facing: z.enum(['kept', 'out', 'in']),
  rise: metres,
  every: count,
})

export const ruleSchema = z.discriminatedUnion('rule', [lineSchema, gridSchema, ringSchema, fanSchema]).superRefine((rule, context) => {
  const copies = countOf(rule)
  if (copies > MOST_COPIES) context.addIssue({ code: 'custom', path: [rule.rule === 'grid' ? 'counts' : 'count'], message: `would make ${copies.toLocaleString('en')} copies; a million is the most` })
})

export type LineRule = z.infer<typeof lineSchema>
export type GridRule = z.infer<typeof gridSchema>
export type RingRule = z.infer<typeof ringSchema>
export type FanRule = z.infer<typeof fanSchema>
export type Rule = z.infer<typeof ruleSchema>
export type RuleKind = Rule['rule']

export const RULE_KINDS: readonly RuleKind[] = ['line', 'grid', 'ring', 'fan']

/** A rule of each kind as it comes. */
export const FIRST_RULES: { [K in RuleKind]: Extract<Rule, { rule: K }> } = {
  line: { rule: 'line', count: 5, along: [1.5, 0, 0], measure: 'spacing', least: 1, ratio: 1, centred: false, turn: [0, 0, 0], size: 1, axes: 'world' },
  grid: { rule: 'grid', counts: [4, 1, 3], spacing: [1.5, 1.5, 1.5], stagger: 0, bond: false, centred: false, rise: 0, every: 1 },
  ring: { rule: 'ring', count: 8, radius: 3, axis: 1, start: 0, arc: 360, facing: 'out', rise: 0, size: 1 },
  fan: { rule: 'fan', rows: 4, first: 9, radius: 5, depth: 1.2, arc: 120, counts: 'same', stagger: 0, facing: 'in', rise: 0.3, every: 1 },
}

/** How many copies a line really has: as many as fit, where they are to fit. */
export function lineCount({ count, measure, along, least }: LineRule): number {
  // A hair's breadth of slack, so that 3 m holds four at 1 m.
  return measure === 'fit' ? Math.floor(Math.hypot(...along) / least + 1e-9) + 1 : count
}

/** How many copies stand in a row of a fan. */
export function fanRowCount({ first, counts, radius, depth }: FanRule, row: number): number {
  if (counts === 'same' || first === 1 || radius === 0) return first
  return Math.max(1, Math.floor((first - 1) * Math.abs((radius + row * depth) / radius) + 1e-9) + 1)
}

export function countOf(rule: Rule): number {
  switch (rule.rule) {
    case 'line': return lineCount(rule)
    case 'grid': return rule.counts[0] * rule.counts[1] * rule.counts[2]
    case 'ring': return rule.count
    case 'fan': {
      if (rule.counts === 'same') return rule.rows * rule.first
      let sum = 0
      for (let row = 0; row < rule.rows && sum <= MOST_COPIES; row++) sum += fanRowCount(rule, row)
      return sum
    }
  }
}

/** Names a copy so that it stays the same one when counts change: its place in the line or ring, its row and column. */
export function keyOf(rule: Rule, index: number): string {
  if (rule.rule === 'grid') {
    const [columns, layers] = rule.counts
    return `${Math.floor(index / (columns * layers))},${index % columns},${Math.floor(index / columns) % layers}`
  }
  if (rule.rule === 'fan') {
    let row = 0
    for (let count = fanRowCount(rule, 0); index >= count; count = fanRowCount(rule, ++row)) index -= count
    return `${row},${index}`
  }
  return String(index)
}
