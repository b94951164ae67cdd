import { database } from '../../../db/client'
import { putPicture } from '../../../services/levels'
import { idParam, MEGABYTE, readBytes } from '../../../utils/request'

export default defineEventHandler(async (event) => {
  const id = idParam(event, 'level')
  await putPicture(await database(), id, await readBytes(event, 2 * MEGABYTE))
  return null
})
