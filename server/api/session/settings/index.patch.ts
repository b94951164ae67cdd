import { keepSettings } from '../../../services/person-settings'
import { defineRoute } from '../../../utils/route'

export default defineRoute('keepSettings', async ({ db, asker, body }) =>
  keepSettings(await db(), asker.person, await body()),
)
