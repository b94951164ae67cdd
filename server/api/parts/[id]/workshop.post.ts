import { openPart } from '../../../services/workshop'
import { defineRoute } from '../../../utils/route'

export default defineRoute('openPart', async ({ db, id, body }) => {
  await body()
  return openPart(await db(), id)
})
