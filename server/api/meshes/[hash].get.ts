import { getRouterParam, setResponseHeaders } from 'h3'
import { database } from '../../db/client'
import { getMesh } from '../../services/kit'

export default defineEventHandler(async (event) => {
  const glb = await getMesh(await database(), getRouterParam(event, 'hash')!)
  setResponseHeaders(event, { 'content-type': 'model/gltf-binary', 'cache-control': 'public, max-age=31536000, immutable' })
  return glb
})
