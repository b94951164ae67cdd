import { listen } from '../../services/live/live'
import { progressOf } from '../../services/progress'
import { defineRoute } from '../../utils/route'

/** No ticket is asked for after what it was for is done: that is no error of who asks. */
export default defineRoute('progress', ({ id }) => {
  // It may be another server that does it.
  listen()
  return Promise.resolve(progressOf(id))
})
