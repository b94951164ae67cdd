import { getPart, setPartPivot } from '../../services/kit'
import { defineRoute } from '../../utils/route'

export default defineRoute('patchPart', async ({ db, id, body }) => {
  await getPart(await db(), id)
  return setPartPivot(await db(), id, (await body()).pivot)
})
