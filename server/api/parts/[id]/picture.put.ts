import { putPartPicture } from '../../../services/kit'
import { defineRoute } from '../../../utils/route'

export default defineRoute('putPartPicture', async ({ db, id, bytes }) => putPartPicture(await db(), id, await bytes()))
