import { inWorker } from '../../../jobs/pool'
import { levelOfMilestone } from '../../../services/milestones'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'

export default defineRoute('compare', async ({ db, id, query, askerIn, terms }) => {
  await askerIn(query.level ?? (await levelOfMilestone(await db(), query.milestone!)), 'look')
  const bytes = await inWorker('compare', { id, query }, terms)
  if (query.as === 'json') return Reply.json(bytes)
  return new Reply(bytes, {
    'content-type': 'text/csv; charset=utf-8',
    'content-disposition': 'attachment; filename="differences.csv"',
  })
})
