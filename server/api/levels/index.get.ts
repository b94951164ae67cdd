import { levelsHidden } from '../../services/accounts'
import { namesIn } from '../../services/live/live'
import { listLevels } from '../../services/levels'
import { defineRoute } from '../../utils/route'

export default defineRoute('listLevels', async ({ db, asker }) => {
  const hidden = asker.person ? await levelsHidden(await db(), asker.person.id) : new Set()
  const shown = (await listLevels(await db())).filter(({ id }) => !hidden.has(id))
  return { levels: shown.map(level => ({ ...level, here: namesIn(level.id) })) }
})
