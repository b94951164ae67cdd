import { levelAsJson } from '../../../services/level-json'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('getLevel', async ({ db, id }) =>
  Reply.json(await levelAsJson(await db(), id), { isGzip: true }),
)
