import { LITTLE, readJournal, TooMuchHere } from '../../../services/changes'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'
import { inWorker } from '../../../jobs/pool'

export default defineRoute('journal', async ({ db, id, query: { after }, terms }) => {
  try {
    return await readJournal(await db(), id, after, LITTLE)
  } catch (error) {
    if (!(error instanceof TooMuchHere)) throw error
    return Reply.json(await inWorker('readJournal', { levelId: id, after }, terms))
  }
})
