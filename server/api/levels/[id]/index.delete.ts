import { deleteLevel } from '../../../services/levels'
import { defineRoute } from '../../../utils/route'

export default defineRoute('deleteLevel', async ({ db, id }) => {
  await deleteLevel(await db(), id)
})
