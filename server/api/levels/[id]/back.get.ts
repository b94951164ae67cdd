import { goBack } from '../../../services/changes'
import { defineRoute } from '../../../utils/route'

export default defineRoute('back', async ({ db, id, query }) => goBack(await db(), id, query.to))
