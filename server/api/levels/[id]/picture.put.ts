import { needLevel } from '../../../services/levels'
import { putPicture } from '../../../services/pictures'
import { defineRoute } from '../../../utils/route'

export default defineRoute('putPicture', async ({ db, id, bytes, query: { revision } }) => {
  await needLevel(await db(), id)
  await putPicture(await db(), id, await bytes(), revision)
})
