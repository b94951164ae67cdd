import { partPatchSchema } from '../../../core/api/schema'
import { database } from '../../db/client'
import { setPartPivot } from '../../services/kit'
import { idParam, readJson } from '../../utils/request'

export default defineEventHandler(async (event) => {
  const id = idParam(event, 'part')
  const { pivot } = await readJson(event, partPatchSchema)
  return setPartPivot(await database(), id, pivot)
})
