import type { FieldPath } from '../units/field'
import { putValue } from '../units/field'
import type { Rule } from './rules'
import { ruleSchema } from './rules'

/** The rule with another value, or what is wrong with it in words. */
export function withValue(
  rule: Rule,
  path: FieldPath,
  value: unknown,
): { ok: true; rule: Rule } | { ok: false; error: string } {
  const parsed = ruleSchema.safeParse(putValue(rule, path, value))
  return parsed.success
    ? { ok: true, rule: parsed.data }
    : { ok: false, error: `It ${parsed.error.issues[0]!.message}.` }
}
