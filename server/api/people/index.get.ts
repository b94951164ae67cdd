import { listPeople } from '../../services/accounts'
import { defineRoute } from '../../utils/route'

export default defineRoute('listPeople', async ({ db }) => ({ people: await listPeople(await db()) }))
