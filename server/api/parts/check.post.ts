import { defineRoute } from '../../utils/route'
import { inWorker } from '../../jobs/pool'

export default defineRoute('checkFile', async ({ bytes, terms }) => {
  const glb = await bytes()
  return inWorker('checkFile', { glb }, { ...terms, size: glb.length })
})
