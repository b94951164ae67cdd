import { ApiFailure, ServerAway } from '~/api/client'
import { reportError } from './page-errors'

/**
 * For what is no loss while the server is away or does not have it, such as a picture of a part. Any other error is
 * reported.
 */
export function orNothing(error: unknown): null {
  if (!(error instanceof ServerAway || error instanceof ApiFailure)) reportError(error, 'promise')
  return null
}

let isTold = false

/** For what this device keeps besides: one that keeps nothing is no reason to stop. It is said once. */
export function notKept(error: unknown): void {
  if (!isTold) reportError(error, 'promise')
  isTold = true
}
