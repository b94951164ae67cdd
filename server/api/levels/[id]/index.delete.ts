import { deleteLevel } from '../../../services/levels'
import { defineRoute } from '../../../utils/route'

export default defineRoute('deleteLevel', async ({ db, id, asker }) => {
  await deleteLevel(await db(), asker.person, id)
})
