import { keepSoon } from '../../../jobs/keep-milestones'
import { makeMilestone } from '../../../services/milestones'
import { defineRoute } from '../../../utils/route'

export default defineRoute(
  'makeMilestone',
  async ({ db, id, body, asker }) => {
    const made = await makeMilestone(await db(), asker.person, id, await body())
    keepSoon(made.id)
    return made
  },
  201,
)
