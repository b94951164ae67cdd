import { changesRequestSchema } from '../../../../core/api/schema'
import { database } from '../../../db/client'
import { saveChanges } from '../../../services/changes'
import { idParam, MEGABYTE, readJson } from '../../../utils/request'

export default defineEventHandler(async (event) => {
  const id = idParam(event, 'level')
  return saveChanges(await database(), id, await readJson(event, changesRequestSchema, 64 * MEGABYTE))
})
