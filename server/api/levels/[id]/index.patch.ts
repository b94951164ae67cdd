import { patchLevel } from '../../../services/levels'
import { defineRoute } from '../../../utils/route'

export default defineRoute('patchLevel', async ({ db, id, body }) => patchLevel(await db(), id, await body()))
