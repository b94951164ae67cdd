import { levelAs } from '../../../services/sent-level'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('getLevel', async ({ db, id }) =>
  Reply.compressed(await levelAs('json', await db(), id), 'application/json'),
)
