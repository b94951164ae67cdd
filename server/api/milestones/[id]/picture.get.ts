import { levelOfMilestone, milestonePicture } from '../../../services/milestones'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('milestonePicture', async ({ db, id, askerIn }) => {
  await askerIn(await levelOfMilestone(await db(), id), 'look')
  const { bytes, type } = await milestonePicture(await db(), id)
  return new Reply(bytes, { 'content-type': type, 'cache-control': 'no-cache' })
})
