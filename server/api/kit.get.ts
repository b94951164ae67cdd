import { listParts } from '../services/kit'
import { defineRoute } from '../utils/route'

export default defineRoute('kit', async ({ db }) => ({ parts: await listParts(await db()) }))
