import { levelPatchSchema } from '../../../../core/api/schema'
import { database } from '../../../db/client'
import { patchLevel } from '../../../services/levels'
import { idParam, readJson } from '../../../utils/request'

export default defineEventHandler(async (event) => {
  const id = idParam(event, 'level')
  return patchLevel(await database(), id, await readJson(event, levelPatchSchema))
})
