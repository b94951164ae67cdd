import { doorSettings } from '../../door/keys'
import { defineRoute } from '../../utils/route'

export default defineRoute('session', async ({ event }) => ({ may: event.context.may, largestFile: doorSettings.largestFile }))
