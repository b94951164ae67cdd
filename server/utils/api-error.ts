import type { z } from 'zod'
import type { Conflict } from '../../core/api/schema'
import { firstIssue } from '../../core/units/issue'

/** An answer other than success, with what is wrong and where, for the person who sent the request. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly more: { field?: string; conflict?: Conflict } = {},
  ) {
    super(message)
  }

  static notFound(what: string): ApiError {
    return new ApiError(404, 'not-found', `There is no such ${what}.`)
  }

  /** The path in the request that is wrong is its field; what is wrong as a whole is called by `whole`. */
  static invalid(error: z.ZodError, whole = 'body'): ApiError {
    const { path, message } = firstIssue(error)
    const field = path.length > 0 ? path.map(String).join('.').slice(0, LONGEST_FIELD) : whole
    return new ApiError(422, 'invalid', `${field}: ${message}`, { field })
  }
}

/** Keys come from the request and may be as long as it. */
const LONGEST_FIELD = 300
