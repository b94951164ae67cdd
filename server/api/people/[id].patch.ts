import { patchPerson } from '../../services/accounts'
import { defineRoute } from '../../utils/route'

export default defineRoute('patchPerson', async ({ db, id, asker, body }) =>
  patchPerson(await db(), asker.person, id, await body()),
)
