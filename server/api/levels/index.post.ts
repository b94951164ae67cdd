import { createLevel } from '../../services/levels'
import { defineRoute } from '../../utils/route'

export default defineRoute(
  'createLevel',
  async ({ db, body, askerIn }) => {
    const level = await body()
    if (level.from !== 'empty' && level.from !== 'demo') await askerIn(level.from, 'look')
    return createLevel(await db(), level)
  },
  201,
)
