import { LITTLE, TooMuchHere } from '../../../services/changes'
import { goBack } from '../../../services/go-back'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'
import { inWorker } from '../../../jobs/pool'

export default defineRoute('back', async ({ db, id, query: { to }, terms }) => {
  try {
    return await goBack(await db(), id, to, LITTLE)
  } catch (error) {
    if (!(error instanceof TooMuchHere)) throw error
    return Reply.json(await inWorker('goBack', { levelId: id, to }, terms))
  }
})
