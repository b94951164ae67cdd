import { newPartSchema } from '../../../core/api/schema'
import { database } from '../../db/client'
import { createPart } from '../../services/kit'
import { MEGABYTE, readBytes, readQuery } from '../../utils/request'

export default defineEventHandler(async (event) => {
  const part = readQuery(event, newPartSchema)
  return createPart(await database(), part, new Uint8Array(await readBytes(event, 64 * MEGABYTE)))
})
