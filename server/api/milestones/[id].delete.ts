import { deleteMilestone, levelOfMilestone } from '../../services/milestones'
import { defineRoute } from '../../utils/route'

export default defineRoute('deleteMilestone', async ({ db, id, askerIn }) => {
  await askerIn(await levelOfMilestone(await db(), id), 'work')
  await deleteMilestone(await db(), id)
})
