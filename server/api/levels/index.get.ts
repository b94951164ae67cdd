import { database } from '../../db/client'
import { listLevels } from '../../services/levels'

export default defineEventHandler(async () => ({ levels: await listLevels(await database()) }))
