import { setResponseHeaders } from 'h3'
import { database } from '../../../db/client'
import { exportLevel } from '../../../services/levels'
import { exportQuerySchema } from '../../../../core/api/schema'
import { idParam, readQuery } from '../../../utils/request'

export default defineEventHandler(async (event) => {
  const { name, glb } = await exportLevel(await database(), idParam(event, 'level'), readQuery(event, exportQuerySchema).instanced)
  setResponseHeaders(event, {
    'content-type': 'model/gltf-binary',
    // RFC 6266 and RFC 8187: the name in UTF-8, percent-encoded.
    'content-disposition': `attachment; filename="level.glb"; filename*=UTF-8''${encodeURIComponent(name).replace(/['()*]/g, c => `%${c.charCodeAt(0).toString(16)}`)}.glb`,
  })
  return glb
})
