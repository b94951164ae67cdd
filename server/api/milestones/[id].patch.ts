import { levelOfMilestone, patchMilestone } from '../../services/milestones'
import { defineRoute } from '../../utils/route'

export default defineRoute('patchMilestone', async ({ db, id, body, askerIn }) => {
  await askerIn(await levelOfMilestone(await db(), id), 'work')
  return patchMilestone(await db(), id, await body())
})
