import { namesIn } from '../../services/live/live'
import { listLevels } from '../../services/levels'
import { defineRoute } from '../../utils/route'

export default defineRoute('listLevels', async ({ db }) => ({
  levels: (await listLevels(await db())).map(level => ({ ...level, here: namesIn(level.id) })),
}))
