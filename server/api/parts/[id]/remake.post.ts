import { defineRoute } from '../../../utils/route'
import { inWorker } from '../../../workers/pool'

export default defineRoute('remakePart', async ({ id, body }) => {
  await body()
  return { parts: await inWorker('remakePart', { id }) }
})
