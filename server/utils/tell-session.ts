import type { Session } from '../../core/api/schema'
import type { Asker } from '../auth/keys'
import { doorSettings } from '../auth/keys'

/** What somebody who is in is told of themself. */
export function tellSession({ role, person }: Asker): Session {
  return { role: role ?? 'look', person, largestFile: doorSettings.largestFile }
}
