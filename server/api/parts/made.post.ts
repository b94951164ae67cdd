import { defineRoute } from '../../utils/route'
import { inWorker } from '../../jobs/pool'

export default defineRoute('makePart', async ({ bytes, terms }) => {
  const body = await bytes()
  return inWorker('makePart', { body }, { ...terms, size: body.length })
})
