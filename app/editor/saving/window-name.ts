const WINDOW_KEY = 'handy-grid.window'

let claimed: Promise<string> | undefined

/**
 * This window's name among those open on the same level, the same for as long as the page lives. It stays the same
 * through a reload and is held by a lock, so that others can tell what an abandoned window left from what is in use.
 * Where the browser offers no locks (a page not on loopback and not on HTTPS), what other windows left waits until they
 * are opened again.
 */
export function claimWindow(): Promise<string> {
  return (claimed ??= claim())
}

async function claim(): Promise<string> {
  const known = sessionStorage.getItem(WINDOW_KEY)
  // A duplicated window has the name of the one it was made from.
  const name = known && (await holdWindow(known)) ? known : crypto.randomUUID()
  if (name !== known) await holdWindow(name)
  sessionStorage.setItem(WINDOW_KEY, name)
  return name
}

/** Takes a window's lock for as long as this page lives; false if another page has it. */
export function holdWindow(window: string): Promise<boolean> {
  if (!navigator.locks) return Promise.resolve(sessionStorage.getItem(WINDOW_KEY) === window)
  return new Promise(resolve => {
    void navigator.locks.request(`handy-grid.window.${window}`, { ifAvailable: true }, lock => {
      resolve(lock !== null)
      return lock ? new Promise(() => {}) : undefined
    })
  })
}
