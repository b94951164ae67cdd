import { defineRoute } from '../../utils/route'
import { inWorker } from '../../jobs/pool'

export default defineRoute('importFile', async ({ query, bytes: body, terms }) => {
  const bytes = await body()
  return inWorker('importFile', { ...query, bytes }, { ...terms, size: bytes.length })
})
