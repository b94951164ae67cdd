import { getRouterParam } from 'h3'
import { getMesh } from '../../services/kit'
import { Reply } from '../../utils/reply'
import { defineRoute } from '../../utils/route'

export default defineRoute('mesh', async ({ db, event }) => {
  const glb = await getMesh(await db(), getRouterParam(event, 'hash') ?? '')
  return new Reply(glb, {
    'content-type': 'model/gltf-binary',
    'cache-control': 'private, max-age=31536000, immutable',
  })
})
