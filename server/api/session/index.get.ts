import { defineRoute } from '../../utils/route'
import { tellSession } from '../../utils/tell-session'

export default defineRoute('session', async ({ asker, query, askerIn }) =>
  tellSession(query.level === undefined ? asker : await askerIn(query.level, 'look')),
)
