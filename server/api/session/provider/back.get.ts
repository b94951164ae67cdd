import { endSignIn } from '../../../auth/provider'
import { ApiError } from '../../../utils/api-error'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

/** Whoever cannot be let in is told so on the page where one comes in. */
export default defineRoute('signedIn', async ({ event }) => {
  try {
    return Reply.to(await endSignIn(event))
  } catch (error) {
    if (error instanceof ApiError && error.status === 403) return Reply.to(`/enter?refused=${error.code}`)
    throw error
  }
})
