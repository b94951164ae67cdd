import { defineRoute } from '../../../utils/route'
import { inQueue } from '../../../jobs/asking'

export default defineRoute('remakePart', async ({ id, body, terms }) => {
  await body()
  return { parts: await inQueue('remakePart', { id }, terms) }
})
