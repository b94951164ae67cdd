import { needLevel } from '../../../services/levels'
import { SharedByKey } from '../../../services/mutex'
import { inWorker } from '../../../jobs/pool'
import { defineRoute } from '../../../utils/route'

/** Many may ask for the check of one level at once; it is ended when none of them waits any more. */
const checks = new SharedByKey((id, { who, size }: { who: string; size: number }, signal) =>
  inWorker('checkLevel', { id }, { who, size, signal }),
)

export default defineRoute('checkLevel', async ({ db, id, terms }) => {
  const { placementCount } = await needLevel(await db(), id)
  return checks.get(id, { who: terms.who, size: placementCount }, terms.signal)
})
