import { levelOfMilestone, putMilestonePicture } from '../../../services/milestones'
import { defineRoute } from '../../../utils/route'

export default defineRoute('putMilestonePicture', async ({ db, id, bytes, askerIn }) => {
  await askerIn(await levelOfMilestone(await db(), id), 'work')
  await putMilestonePicture(await db(), id, await bytes())
})
