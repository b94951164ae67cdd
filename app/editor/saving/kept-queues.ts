import { z } from 'zod'
import { changeSchema } from '~~/core/level/schema'
import type { QueueContent } from './change-queue'
import { DeviceStore } from './device-store'
import { holdWindow } from './window-name'

// Changes that the server has not answered yet, kept in the browser's database: a record for each level and window.

const queues = new DeviceStore(
  'handy-grid',
  'waiting-changes',
  z.strictObject({ baseRevision: z.int().min(0), changes: z.array(changeSchema) }),
)

export async function keepQueue(levelId: string, window: string, content: QueueContent): Promise<void> {
  const key = `${levelId}/${window}`
  if (content.changes.length === 0) await queues.remove(key)
  else await queues.put(key, content)
}

/** The queues left on this device for a level, by this window before or by windows that are no more. */
export async function leftQueues(
  levelId: string,
  window: string,
): Promise<{ window: string; content: QueueContent }[]> {
  const found = []
  for (const { key, value } of await queues.beginning(`${levelId}/`)) {
    const owner = key.slice(levelId.length + 1)
    if (owner === window || (await holdWindow(owner))) found.push({ window: owner, content: value })
  }
  return found
}
