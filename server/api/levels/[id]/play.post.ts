import { needLevel } from '../../../services/levels'
import { withMutex } from '../../../services/mutex'
import { inWorker } from '../../../jobs/pool'
import { defineRoute } from '../../../utils/route'

export default defineRoute('play', async ({ db, id, body, asker, terms }) => {
  await needLevel(await db(), id)
  const request = await body()
  const by = { person: asker.person, role: asker.role ?? 'look' }
  return withMutex(id, () => inWorker('playRecipe', { levelId: id, request, by }, terms))
})
