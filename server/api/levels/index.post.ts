import { setResponseStatus } from 'h3'
import { newLevelSchema } from '../../../core/api/schema'
import { database } from '../../db/client'
import { createLevel } from '../../services/levels'
import { readJson } from '../../utils/request'

export default defineEventHandler(async (event) => {
  const created = await createLevel(await database(), await readJson(event, newLevelSchema))
  setResponseStatus(event, 201)
  return created
})
