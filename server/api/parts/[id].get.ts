import { getPart } from '../../services/kit'
import { defineRoute } from '../../utils/route'

export default defineRoute('getPart', async ({ db, id }) => getPart(await db(), id))
