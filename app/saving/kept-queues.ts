import { createStore, del, get, keys, set } from 'idb-keyval'
import { z } from 'zod'
import { changeSchema } from '~~/core/level/schema'
import type { QueueContent } from './change-queue'

// Changes that the server has not answered yet, kept in the browser's database: a record for each level and window.

const contentSchema = z.strictObject({ baseRevision: z.int().min(0), changes: z.array(changeSchema) })
const store = () => createStore('handy-grid', 'waiting-changes')
const WINDOW_KEY = 'handy-grid.window'

/**
 * This window's name among those open on the same level. It stays the same through a reload and is held by a lock as long as
 * the window lives, so that others can tell an abandoned queue from one in use. Where the browser offers no locks (a page not
 * on loopback and not on HTTPS), abandoned queues of other windows wait until that window is opened again.
 */
export async function claimWindow(): Promise<string> {
  const known = sessionStorage.getItem(WINDOW_KEY)
  // A duplicated window has the name of the one it was made from.
  const name = known && await hold(known) ? known : crypto.randomUUID()
  if (name !== known) await hold(name)
  sessionStorage.setItem(WINDOW_KEY, name)
  return name
}

export async function keepQueue(levelId: string, window: string, content: QueueContent): Promise<void> {
  const key = `${levelId}/${window}`
  if (content.changes.length === 0) await del(key, store())
  else await set(key, content, store())
}

/** The queues left on this device for a level, by this window before a reload or by windows that are no more. */
export async function leftQueues(levelId: string, window: string): Promise<{ window: string, content: QueueContent }[]> {
  const found = []
  for (const key of await keys<string>(store())) {
    const [level, owner] = key.split('/')
    if (level !== levelId || !owner || (owner !== window && !await hold(owner))) continue
    const content = contentSchema.safeParse(await get(key, store()))
    if (content.success) found.push({ window: owner, content: content.data })
  }
  return found
}

/** Takes a window's lock for as long as this page lives; false if another page has it. */
function hold(window: string): Promise<boolean> {
  if (!navigator.locks) return Promise.resolve(sessionStorage.getItem(WINDOW_KEY) === window)
  return new Promise((resolve) => {
    void navigator.locks.request(`handy-grid.window.${window}`, { ifAvailable: true }, (lock) => {
      resolve(lock !== null)
      return lock ? new Promise(() => {}) : undefined
    })
  })
}
