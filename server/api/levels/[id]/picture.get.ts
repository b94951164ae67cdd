import { setResponseHeaders } from 'h3'
import { database } from '../../../db/client'
import { getPicture } from '../../../services/levels'
import { idParam } from '../../../utils/request'

export default defineEventHandler(async (event) => {
  const { bytes, type } = await getPicture(await database(), idParam(event, 'level'))
  setResponseHeaders(event, { 'content-type': type, 'cache-control': 'no-cache' })
  return bytes
})
