import { doorSettings, startSession } from '../../auth/keys'
import { defineRoute } from '../../utils/route'

export default defineRoute('startSession', async ({ event, body }) => ({
  may: await startSession(event, (await body()).key),
  largestFile: doorSettings.largestFile,
}))
