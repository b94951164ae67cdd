import { noteError } from '../../services/page-errors'
import { defineRoute } from '../../utils/route'

export default defineRoute('tellError', async ({ body }) => noteError(await body()))
