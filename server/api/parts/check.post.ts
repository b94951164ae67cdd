import { defineRoute } from '../../utils/route'
import { inWorker } from '../../workers/pool'

export default defineRoute('checkFile', async ({ bytes }) => inWorker('checkFile', { glb: await bytes() }))
