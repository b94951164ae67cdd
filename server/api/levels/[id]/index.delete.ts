import { database } from '../../../db/client'
import { deleteLevel } from '../../../services/levels'
import { idParam } from '../../../utils/request'

export default defineEventHandler(async (event) => {
  await deleteLevel(await database(), idParam(event, 'level'))
  return null
})
