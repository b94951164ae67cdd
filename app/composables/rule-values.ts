import type { FieldPath } from '~~/core/arrange/fields'
import type { Rule } from '~~/core/arrange/rules'
import { ruleSchema } from '~~/core/arrange/rules'

export function valueAt(rule: Rule, path: FieldPath): unknown {
  return path.reduce<unknown>((at, key) => (at as Record<string | number, unknown>)[key], rule)
}

/** The rule with another value, or what is wrong with it in words. */
export function withValue(rule: Rule, path: FieldPath, value: unknown): { ok: true, rule: Rule } | { ok: false, error: string } {
  const next = structuredClone(rule) as unknown as Record<string | number, unknown>
  const [last, ...above] = [...path].reverse()
  const target = above.reverse().reduce<Record<string | number, unknown>>((at, key) => at[key] as Record<string | number, unknown>, next)
  if (value === undefined) delete target[last!]
  else target[last!] = value
  const parsed = ruleSchema.safeParse(next)
  return parsed.success ? { ok: true, rule: parsed.data } : { ok: false, error: `It ${parsed.error.issues[0]!.message}.` }
}
