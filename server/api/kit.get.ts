import { database } from '../db/client'
import { listParts } from '../services/kit'

export default defineEventHandler(async () => ({ parts: await listParts(await database()) }))
