import { startSession } from '../../auth/keys'
import { defineRoute } from '../../utils/route'
import { tellSession } from '../../utils/tell-session'

export default defineRoute('startSession', async ({ event, body }) =>
  tellSession(await startSession(event, (await body()).key)),
)
