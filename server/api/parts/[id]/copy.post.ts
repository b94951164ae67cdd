import { copyPart } from '../../../services/workshop'
import { defineRoute } from '../../../utils/route'

export default defineRoute('copyPart', async ({ db, id, body }) => copyPart(await db(), id, await body()))
