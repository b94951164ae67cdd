import { deleteVariants } from '../../services/kit'
import { defineRoute } from '../../utils/route'

export default defineRoute('deleteVariants', async ({ db, id }) => deleteVariants(await db(), id))
