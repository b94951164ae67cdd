import { getRouterParam } from 'h3'
import { keptSteps } from '../../../services/steps'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'
import { inWorker } from '../../../jobs/pool'

export default defineRoute('meshSteps', async ({ db, event, terms }) => {
  const hash = getRouterParam(event, 'hash') ?? ''
  const glb = (await keptSteps(await db(), hash)) ?? (await inWorker('makeSteps', { hash }, terms))
  // Nothing where there is nothing simpler.
  return glb.length === 0
    ? null
    : new Reply(glb, { 'content-type': 'model/gltf-binary', 'cache-control': 'private, max-age=31536000, immutable' })
})
