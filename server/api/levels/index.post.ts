import { isBeginning } from '../../../core/api/starting-points'
import { inWorker } from '../../jobs/pool'
import { createLevel } from '../../services/levels'
import { defineRoute } from '../../utils/route'

export default defineRoute(
  'createLevel',
  async ({ db, body, asker, askerIn, terms }) => {
    const given = await body()
    if (!isBeginning(given.from)) await askerIn(given.from, given.variant && given.at === undefined ? 'work' : 'look')
    if (given.at !== undefined) return inWorker('createLevel', { given, by: asker.person }, terms)
    return createLevel(await db(), asker.person, given)
  },
  201,
)
