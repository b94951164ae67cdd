import { defineRoute } from '../../utils/route'
import { inWorker } from '../../workers/pool'

export default defineRoute('makePart', async ({ bytes }) => inWorker('makePart', { body: await bytes() }))
