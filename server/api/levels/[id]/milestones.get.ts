import { needLevel } from '../../../services/levels'
import { listMilestones } from '../../../services/milestones'
import { defineRoute } from '../../../utils/route'

export default defineRoute('listMilestones', async ({ db, id }) => {
  await needLevel(await db(), id)
  return { milestones: await listMilestones(await db(), id) }
})
