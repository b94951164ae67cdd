import { deletePart } from '../../services/kit'
import { defineRoute } from '../../utils/route'

export default defineRoute('deletePart', async ({ db, id }) => deletePart(await db(), id))
