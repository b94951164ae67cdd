import { renewKey } from '../../../services/accounts'
import { defineRoute } from '../../../utils/route'

export default defineRoute('renewKey', async ({ db, id, asker, body }) => {
  await body()
  return renewKey(await db(), asker.person, id)
})
