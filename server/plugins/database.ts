import { tendMilestones } from '../jobs/keep-milestones'
import { endWorkers } from '../jobs/pool'
import { database } from '../services/database'
import { sweepFolders } from '../services/folders'
import { keepThin, readKeptDays } from '../services/thin-journal'
import { log } from '../utils/log'

/**
 * Opens the database at once, so that the first request need not wait; a failure shows in the log and in every answer.
 */
export default defineNitroPlugin(nitroApp => {
  sweepFolders().catch((error: unknown) => log.warn({ err: error }, 'folders of earlier servers were not swept'))
  database().catch((error: unknown) => log.error({ err: error }, 'the database is not ready'))
  const days = readKeptDays(process.env)
  if (days !== null) nitroApp.hooks.hook('close', keepThin(database, days))
  nitroApp.hooks.hook('close', tendMilestones())
  nitroApp.hooks.hook('close', endWorkers)
})
