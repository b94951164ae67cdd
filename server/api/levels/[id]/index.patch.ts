import { patchLevel } from '../../../services/levels'
import { defineRoute } from '../../../utils/route'

export default defineRoute('patchLevel', async ({ db, id, body, asker, askerIn }) => {
  const patch = await body()
  if (patch.deleted === false) await askerIn(id, 'keep')
  return patchLevel(await db(), asker.person, id, patch)
})
