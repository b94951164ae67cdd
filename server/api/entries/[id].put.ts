import { putKitEntry } from '../../services/kit'
import { defineRoute } from '../../utils/route'

export default defineRoute('putKitEntry', async ({ db, id, body }) =>
  putKitEntry(await db(), { id, ...(await body()) }),
)
