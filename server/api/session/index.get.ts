import type { Asker } from '../../auth/keys'
import { doorSettings } from '../../auth/keys'
import { defineRoute } from '../../utils/route'

export default defineRoute('session', async ({ event }) => ({
  may: (event.context.asker as Asker).may,
  largestFile: doorSettings.largestFile,
}))
