import { listHistory } from '../../../services/changes'
import { needLevel } from '../../../services/levels'
import { defineRoute } from '../../../utils/route'

export default defineRoute('history', async ({ db, id, query }) => {
  await needLevel(await db(), id)
  return { changes: await listHistory(await db(), id, query) }
})
