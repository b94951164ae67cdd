import { createLevel } from '../../services/levels'
import { defineRoute } from '../../utils/route'

export default defineRoute('createLevel', async ({ db, body }) => createLevel(await db(), await body()), 201)
