import type { z } from 'zod'
import type { Conflict } from '../../core/api/schema'

/** An answer other than success, with what is wrong and where, for the person who sent the request. */
export class ApiError extends Error {
  constructor(readonly status: number, readonly code: string, message: string, readonly more: { field?: string, conflict?: Conflict } = {}) {
    super(message)
  }

  static notFound(what: string): ApiError {
    return new ApiError(404, 'not-found', `There is no such ${what}.`)
  }

  /** @param prefix what comes before the schema's own path */
  static invalid(error: z.ZodError, prefix = ''): ApiError {
    const issue = innermost(error.issues[0]!)
    const field = [...prefix ? [prefix] : [], ...issue.path].join('.')
    const unknown = issue.code === 'unrecognized_keys' ? [field, issue.keys[0]].filter(Boolean).join('.') : field
    return new ApiError(422, 'invalid', `${unknown || 'The request'}: ${issue.message}`, { field: unknown })
  }
}

/** Of a union that nothing fitted, what is wrong with the one that came farthest. */
function innermost(issue: z.core.$ZodIssue): z.core.$ZodIssue {
  if (issue.code !== 'invalid_union') return issue
  const inner = issue.errors.flatMap(issues => issues.slice(0, 1)).map(each => innermost(each))
  const farthest = inner.reduce<z.core.$ZodIssue | null>((best, each) => !best || each.path.length > best.path.length ? each : best, null)
  return farthest && farthest.path.length > 0 ? { ...farthest, path: [...issue.path, ...farthest.path] } : issue
}
