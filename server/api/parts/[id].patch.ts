import { patchPart } from '../../services/kit'
import { defineRoute } from '../../utils/route'

export default defineRoute('patchPart', async ({ db, id, body }) => patchPart(await db(), id, await body()))
