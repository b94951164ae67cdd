import { databaseTrouble } from '../db/failures'
import { ApiError } from './api-error'

/** What is answered for what went wrong, as far as that is known; null for what was not expected. */
export function knownError(error: unknown): ApiError | null {
  if (error instanceof ApiError) return error
  switch (databaseTrouble(error)) {
    case 'away':
      return new ApiError(503, 'database-away', 'The server works, but its database is away. Nothing was changed.')
    case 'busy':
      return new ApiError(503, 'busy', 'The server has too much to do at the moment. Nothing was changed; try again.')
    case 'full':
      return new ApiError(
        503,
        'disk-full',
        'The server has no room left on its disk. Nothing was changed; it goes on as soon as there is room.',
      )
    case null:
      return null
  }
}
