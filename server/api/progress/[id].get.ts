import { progressOf } from '../../services/progress'
import { defineRoute } from '../../utils/route'

/** No ticket is asked for after what it was for is done: that is no error of who asks. */
export default defineRoute('progress', ({ id }) => Promise.resolve(progressOf(id)))
