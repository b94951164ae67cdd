import { database } from '../services/database'
import { log } from '../utils/log'
import { sweepFolders } from '../services/folders'
import { endWorkers } from '../jobs/pool'

/**
 * Opens the database at once, so that the first request need not wait; a failure shows in the log and in every answer.
 */
export default defineNitroPlugin(nitroApp => {
  sweepFolders().catch((error: unknown) => log.warn({ err: error }, 'folders of earlier servers were not swept'))
  database().catch((error: unknown) => log.error({ err: error }, 'the database is not ready'))
  nitroApp.hooks.hook('close', endWorkers)
})
