import { readMetrics } from '../../utils/metrics'
import { Reply } from '../../utils/reply'
import { defineRoute } from '../../utils/route'

export default defineRoute('metrics', async () => {
  const { text, type } = await readMetrics()
  return new Reply(Buffer.from(text), { 'content-type': type })
})
