import { progressOf } from '../../services/progress'
import { defineRoute } from '../../utils/route'

/** No ticket is asked for after its file is made: that is no error of who asks. */
export default defineRoute('handOverProgress', async ({ id }) => ({ bytes: progressOf(id) }))
