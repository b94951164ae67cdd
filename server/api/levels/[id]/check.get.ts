import { needLevel } from '../../../services/levels'
import { SharedByKey } from '../../../services/mutex'
import { inQueue } from '../../../jobs/asking'
import { defineRoute } from '../../../utils/route'

type Asked = { id: string; from?: string; who: string; size: number }

/** Many may ask for the check of one level at once; it is ended when none of them waits any more. */
const checks = new SharedByKey((_key, { id, from, who, size }: Asked, signal) =>
  inQueue('checkLevel', { id, from }, { who, size, signal }),
)

export default defineRoute('checkLevel', async ({ db, id, query, terms }) => {
  const { placementCount } = await needLevel(await db(), id)
  const { from } = query
  return checks.get(`${id} ${from ?? ''}`, { id, from, who: terms.who, size: placementCount }, terms.signal)
})
