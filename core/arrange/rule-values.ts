import type { FieldPath } from './fields'
import type { Rule } from './rules'
import { ruleSchema } from './rules'

/** What a rule has at a field's path; undefined where it has nothing there. */
export function valueAt(rule: Rule, path: FieldPath): unknown {
  return path.reduce<unknown>((at, key) => (at as Record<string | number, unknown>)[key], rule)
}

/** The rule with another value at a path, whether or not that is allowed; undefined takes it away. */
export function putValue(rule: Rule, path: FieldPath, value: unknown): Rule {
  const next = structuredClone(rule)
  const [last, ...above] = [...path].reverse()
  const target = above
    .reverse()
    .reduce(
      (at, key) => at[key] as Record<string | number, unknown>,
      next as unknown as Record<string | number, unknown>,
    )
  if (value === undefined) delete target[last!]
  else target[last!] = value
  return next
}

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
