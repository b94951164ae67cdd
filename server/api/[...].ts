import { ApiError } from '../utils/api-error'

/** Everything below /api that no other route takes; without this the page would answer. */
export default defineEventHandler(() => {
  throw ApiError.notFound('route')
})
