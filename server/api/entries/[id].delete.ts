import { deleteKitEntry } from '../../services/kit'
import { defineRoute } from '../../utils/route'

export default defineRoute('deleteKitEntry', async ({ db, id }) => deleteKitEntry(await db(), id))
