import { usesOfPart } from '../../../services/workshop'
import { defineRoute } from '../../../utils/route'

export default defineRoute('usesOfPart', async ({ db, id }) => usesOfPart(await db(), id))
