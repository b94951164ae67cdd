import { needLevel } from '../../../services/levels'
import { SharedByKey } from '../../../services/turns'
import { inWorker } from '../../../workers/pool'
import { defineRoute } from '../../../utils/route'

/** Many may ask for the check of one level at once. */
const checks = new SharedByKey(id => inWorker('checkLevel', { id }))

export default defineRoute('checkLevel', async ({ db, id }) => {
  await needLevel(await db(), id)
  return checks.get(id)
})
