import { changesRequestSchema } from '../../../../core/api/schema'
import { LITTLE, saveChanges, TooMuchHere } from '../../../services/changes'
import { needLevel } from '../../../services/levels'
import { withMutex } from '../../../services/mutex'
import { parseJson } from '../../../utils/body'
import { Reply } from '../../../utils/reply'
import { defineRoute } from '../../../utils/route'
import { inWorker } from '../../../jobs/pool'

/** Bytes up to which a request is looked at here; more would keep others waiting. */
const SMALL = 64 * 1024

export default defineRoute('saveChanges', async ({ db, id, bytes, asker, terms }) => {
  await needLevel(await db(), id)
  const by = { person: asker.person, role: asker.role ?? 'look' }
  const body = await bytes()
  const small = body.length <= SMALL ? parseJson(body, changesRequestSchema) : null
  return withMutex(id, async () => {
    try {
      if (small) return await saveChanges(await db(), id, small, by, LITTLE)
    } catch (error) {
      if (!(error instanceof TooMuchHere)) throw error
    }
    return Reply.json(await inWorker('saveChanges', { levelId: id, body, by }, { ...terms, size: body.length }))
  })
})
