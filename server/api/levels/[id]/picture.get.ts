import { getPicture } from '../../../services/pictures'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('getPicture', async ({ db, id }) => {
  const { bytes, type } = await getPicture(await db(), id)
  return new Reply(bytes, { 'content-type': type, 'cache-control': 'no-cache' })
})
