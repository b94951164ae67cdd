import { z } from 'zod'
import { withNewName } from '../units/earlier'
import type { RuleDefinition } from './definition'
import { MOST_COPIES } from './numbers'
import { fan } from './rules/fan'
import { grid } from './rules/grid'
import { line } from './rules/line'
import { mirror } from './rules/mirror'
import { path } from './rules/path'
import { ring } from './rules/ring'
import { scatter } from './rules/scatter'

/** Every kind of rule, in the order people are shown them. A further one is a file and a line here. */
export const RULES = { line, grid, ring, fan, path, mirror, scatter }

export type RuleType = keyof typeof RULES
export type RuleOf<T extends RuleType> = (typeof RULES)[T]['first']
export type Rule = RuleOf<RuleType>

export const RULE_TYPES = Object.keys(RULES) as RuleType[]

/** All there is to know about a rule's kind. */
export function definitionOf<R extends Rule>(rule: R): RuleDefinition<R> {
  // Which of the definitions it is depends on the rule's type alone; TypeScript does not follow that.
  return RULES[rule.type] as unknown as RuleDefinition<R>
}

const [first, ...others] = Object.values(RULES).map(({ schema }) => schema)

/** Its type was called `rule` once. */
export const ruleSchema: z.ZodType<Rule> = z.preprocess(
  given => withNewName(given, 'rule', 'type'),
  z.discriminatedUnion('type', [first!, ...others]).superRefine((rule: Rule, context) => {
    // Numbers that are no good already are not worked with.
    if (context.issues.length > 0) return
    const { most, firstBeyond, countedBy } = definitionOf(rule)
    const copies = most(rule)
    if (copies > MOST_COPIES) {
      context.addIssue({
        code: 'custom',
        path: [countedBy],
        message: `would make ${copies.toLocaleString('en')} copies; a million is the most`,
      })
      return
    }
    const beyond = firstBeyond(rule)
    if (beyond !== null)
      context.addIssue({
        code: 'custom',
        path: ['size'],
        message: `would make copy ${beyond + 1} larger, smaller or farther away than can be worked with`,
      })
  }),
)

/** How many copies a rule makes. */
export const countOf = (rule: Rule) => definitionOf(rule).count(rule)

/** What names a rule's copies. */
export const keysOf = (rule: Rule) => definitionOf(rule).keys(rule)

/**
 * The matrices of a rule's copies: sixteen numbers each, column by column.
 *
 * @example
 * const matrices = ruleMatrices({ ...RULES.line.first, count: 3, along: [1.5, 0, 0] })
 * [matrices[12], matrices[28], matrices[44]] // [0, 1.5, 3]
 */
export function ruleMatrices(rule: Rule): Float64Array {
  const { count, write } = definitionOf(rule)
  const out = new Float64Array(count(rule) * 16)
  write(rule, out)
  return out
}
