import { settingsOf } from '../../../services/person-settings'
import { defineRoute } from '../../../utils/route'

export default defineRoute('personSettings', async ({ db, asker }) => ({
  kept: await settingsOf(await db(), asker.person),
}))
