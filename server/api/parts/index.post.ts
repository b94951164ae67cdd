import { defineRoute } from '../../utils/route'
import { log } from '../../utils/log'
import { inWorker } from '../../jobs/pool'

export default defineRoute('createPart', async ({ query, bytes, terms }) => {
  const glb = await bytes()
  const part = await inWorker('createPart', { part: query, glb }, { ...terms, size: glb.length })
  // Made while nobody asks for it yet; whoever does before that waits for it.
  inWorker('makeSteps', { hash: part.meshHash }, { size: glb.length }).catch((error: unknown) =>
    log.info({ err: error }, 'no simpler meshes were made of a new part'),
  )
  return part
})
