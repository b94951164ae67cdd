import { startProgress } from '../../services/live/tell-progress'
import { defineRoute } from '../../utils/route'
import { inWorker } from '../../jobs/pool'

export default defineRoute(
  'importFile',
  async ({ query: { ticket, ...query }, bytes: body, terms, asker, askerIn }) => {
    if (query.into !== undefined) await askerIn(query.into, 'work')
    const bytes = await body()
    const { onProgress, end } = startProgress(ticket)
    try {
      return await inWorker(
        'importFile',
        { ...query, bytes, by: asker.person },
        { ...terms, size: bytes.length, onProgress },
      )
    } finally {
      end()
    }
  },
)
