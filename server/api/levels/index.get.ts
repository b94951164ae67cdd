import { listLevels } from '../../services/levels'
import { defineRoute } from '../../utils/route'

export default defineRoute('listLevels', async ({ db }) => ({ levels: await listLevels(await db()) }))
