import { putVariants } from '../../services/kit'
import { defineRoute } from '../../utils/route'

export default defineRoute('putVariants', async ({ db, id, body }) =>
  putVariants(await db(), { id, ...(await body()) }),
)
