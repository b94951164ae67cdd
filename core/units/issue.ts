import type { z } from 'zod'

/**
 * What is wrong and where, of a value that did not fit a schema; of a union that nothing fitted, of the one that came
 * farthest.
 */
export function firstIssue(error: z.ZodError): { path: PropertyKey[]; message: string } {
  const issue = innermost(error.issues[0]!)
  if (issue.code !== 'unrecognized_keys') return issue
  return { path: [...issue.path, issue.keys[0]!], message: 'is not known here' }
}

function innermost(issue: z.core.$ZodIssue): z.core.$ZodIssue {
  if (issue.code === 'invalid_key' && issue.issues[0]) return { ...issue.issues[0], path: issue.path }
  if (issue.code !== 'invalid_union') return issue
  // Of those that know all the keys, if any does: what has keys of another kind was not meant.
  const knowing = issue.errors.filter(
    issues => !issues.some(({ code, path }) => code === 'unrecognized_keys' && path.length === 0),
  )
  const inner = (knowing.length > 0 ? knowing : issue.errors)
    .flatMap(issues => issues.slice(0, 1))
    .map(each => innermost(each))
  const farthest = inner.reduce<z.core.$ZodIssue | null>(
    (best, each) => (!best || each.path.length > best.path.length ? each : best),
    null,
  )
  return farthest && farthest.path.length > 0 ? { ...farthest, path: [...issue.path, ...farthest.path] } : issue
}
