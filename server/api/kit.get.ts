import { listKit } from '../services/kit'
import { defineRoute } from '../utils/route'

export default defineRoute('kit', async ({ db }) => listKit(await db()))
