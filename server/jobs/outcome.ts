import { ApiError } from '../utils/api-error'
import { knownError } from '../utils/known-error'

/** An error does not keep its class on its way to another process: what was refused, or what failed with where. */
export type Outcome<T> =
  | { ok: true; value: T }
  | { ok: false; refused: Pick<ApiError, 'status' | 'code' | 'message' | 'more'> }
  | { ok: false; failed: { name: string; message: string; stack?: string } }

/** What came of some work, to be told to another process. */
export async function outcomeOf<T>(work: Promise<T>): Promise<Outcome<T>> {
  try {
    return { ok: true, value: await work }
  } catch (error) {
    const known = knownError(error)
    if (known)
      return {
        ok: false,
        refused: { status: known.status, code: known.code, message: known.message, more: known.more },
      }
    const { name, message, stack } = error instanceof Error ? error : new Error(String(error))
    return { ok: false, failed: { name, message, stack } }
  }
}

/** @throws ApiError what another process refused; Error what failed there */
export function valueOf<T>(outcome: Outcome<T>): T {
  if (outcome.ok) return outcome.value
  if ('refused' in outcome)
    throw new ApiError(outcome.refused.status, outcome.refused.code, outcome.refused.message, outcome.refused.more)
  throw Object.assign(new Error(outcome.failed.message), { name: outcome.failed.name, stack: outcome.failed.stack })
}
