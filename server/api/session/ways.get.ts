import { doorSettings } from '../../auth/keys'
import { defineRoute } from '../../utils/route'

export default defineRoute('ways', async () => ({
  provider: doorSettings.provider?.name ?? null,
  isKeyNeeded: doorSettings.writingKey !== null,
}))
