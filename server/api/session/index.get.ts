import type { Asker } from '../../door/keys'
import { doorSettings } from '../../door/keys'
import { defineRoute } from '../../utils/route'

export default defineRoute('session', async ({ event }) => ({
  may: (event.context.asker as Asker).may,
  largestFile: doorSettings.largestFile,
}))
