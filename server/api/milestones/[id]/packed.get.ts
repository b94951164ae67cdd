import { PACKED_TYPE } from '../../../../core/level/packed'
import { inWorker } from '../../../jobs/pool'
import { contentOf, levelOfMilestone } from '../../../services/milestones'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('packedMilestone', async ({ db, id, askerIn, terms }) => {
  await askerIn(await levelOfMilestone(await db(), id), 'look')
  const content = (await contentOf(await db(), id)) ?? (await inWorker('keepMilestone', { id }, terms))
  return Reply.compressed(content, PACKED_TYPE)
})
