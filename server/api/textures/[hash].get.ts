import { getRouterParam } from 'h3'
import { getTexture } from '../../services/textures'
import { Reply } from '../../utils/reply'
import { defineRoute } from '../../utils/route'

export default defineRoute('texture', async ({ db, event }) => {
  const { bytes, type } = await getTexture(await db(), getRouterParam(event, 'hash') ?? '')
  return new Reply(bytes, { 'content-type': type, 'cache-control': 'private, max-age=31536000, immutable' })
})
