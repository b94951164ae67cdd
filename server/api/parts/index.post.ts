import { defineRoute } from '../../utils/route'
import { inWorker } from '../../workers/pool'

export default defineRoute('createPart', async ({ query, bytes }) => inWorker('createPart', { part: query, glb: await bytes() }))
