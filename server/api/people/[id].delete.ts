import { endPerson } from '../../services/accounts'
import { defineRoute } from '../../utils/route'

export default defineRoute('endPerson', async ({ db, id, asker }) => endPerson(await db(), asker.person, id))
