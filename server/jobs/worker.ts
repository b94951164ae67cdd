import { database } from '../services/database'
import { sweepFolders } from '../services/folders'
import { endLive } from '../services/live/live'
import { log } from '../utils/log'
import { endWorkers } from './pool'
import { startTaking, stopTaking } from './taking'

// Where a process begins that does jobs of the queue and answers no requests. Asked to end it takes no more, and ends
// once it is done with what it has; asked once more it ends at once, and others do that again.

let isEnding = false

for (const signal of ['SIGTERM', 'SIGINT'] as const)
  process.on(signal, () => {
    if (isEnding) return endWorkers()
    isEnding = true
    void stopTaking()
      .then(endLive)
      .then(() => process.exit(0))
  })

sweepFolders().catch((error: unknown) => log.warn({ err: error }, 'folders of earlier processes were not swept'))
startTaking()
// It lasts as long as it is not asked to end, whether or not the database answers.
setInterval(() => {}, 1 << 30)
database().then(
  () => log.info('jobs are taken'),
  (error: unknown) => log.error({ err: error }, 'the database is not ready'),
)
