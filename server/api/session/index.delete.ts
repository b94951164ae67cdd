import { endSession } from '../../auth/keys'
import { defineRoute } from '../../utils/route'

export default defineRoute('endSession', async ({ event }) => endSession(event))
