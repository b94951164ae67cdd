import { defineRoute } from '../../../utils/route'
import { inWorker } from '../../../jobs/pool'

export default defineRoute('remakePart', async ({ id, body, terms }) => {
  await body()
  return { parts: await inWorker('remakePart', { id }, terms) }
})
