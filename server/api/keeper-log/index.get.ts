import { readKeeperLog } from '../../services/accounts'
import { defineRoute } from '../../utils/route'

export default defineRoute('keeperLog', async ({ db, query }) => readKeeperLog(await db(), query.before))
