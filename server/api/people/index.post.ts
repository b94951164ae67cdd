import { letIn } from '../../services/accounts'
import { defineRoute } from '../../utils/route'

export default defineRoute('letIn', async ({ db, asker, body }) => letIn(await db(), asker.person, await body()), 201)
