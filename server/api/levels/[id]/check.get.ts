import { needLevel } from '../../../services/levels'
import { inWorker } from '../../../workers/pool'
import { defineRoute } from '../../../utils/route'

export default defineRoute('checkLevel', async ({ db, id }) => {
  await needLevel(await db(), id)
  return inWorker('checkLevel', { id })
})
