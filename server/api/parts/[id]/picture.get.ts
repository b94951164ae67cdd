import { getPartPicture } from '../../../services/kit'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('getPartPicture', async ({ db, id }) => {
  const { bytes, type } = await getPartPicture(await db(), id)
  // The page asks by an address that names the mesh as well.
  return new Reply(bytes, { 'content-type': type, 'cache-control': 'private, max-age=31536000, immutable' })
})
