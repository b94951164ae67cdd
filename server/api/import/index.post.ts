import { defineRoute } from '../../utils/route'
import { inWorker } from '../../workers/pool'

export default defineRoute('importFile', async ({ query, bytes }) => inWorker('importFile', { ...query, bytes: await bytes() }))
