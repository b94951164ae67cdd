const last = new Map<string, Promise<void>>()

/**
 * Does work on a thing when everything asked for earlier on the same thing has been done. Those who wait do so here and not on a
 * lock in the database, where each would keep a connection from everybody else.
 */
export function inTurn<T>(key: string, work: () => Promise<T>): Promise<T> {
  const mine = (last.get(key) ?? Promise.resolve()).then(work)
  const done = mine.then(() => {}, () => {})
  last.set(key, done)
  void done.then(() => {
    if (last.get(key) === done) last.delete(key)
  })
  return mine
}

/**
 * Work that many ask for at once is done once for all who asked before it began: whoever asks while it is running gets the next
 * run, which sees everything that was there when they asked.
 */
export class Shared<T> {
  private running: Promise<T> | undefined
  private next: Promise<T> | undefined

  constructor(private readonly work: () => Promise<T>) {}

  get(): Promise<T> {
    if (!this.running) return this.start()
    return this.next ??= this.running.catch(() => {}).then(() => {
      this.next = undefined
      return this.start()
    })
  }

  get isIdle(): boolean {
    return !this.running && !this.next
  }

  private start(): Promise<T> {
    const run = this.running = this.work().finally(() => {
      this.running = undefined
    })
    return run
  }
}

/** The same for work on many things: what is running for each is shared by all who ask for that. */
export class SharedByKey<T> {
  private readonly running = new Map<string, Shared<T>>()

  constructor(private readonly work: (key: string) => Promise<T>) {}

  async get(key: string): Promise<T> {
    let shared = this.running.get(key)
    if (!shared) this.running.set(key, shared = new Shared(() => this.work(key)))
    try {
      return await shared.get()
    }
    finally {
      if (shared.isIdle) this.running.delete(key)
    }
  }
}
