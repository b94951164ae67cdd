const last = new Map<string, Promise<void>>()

/**
 * Does work on a thing when everything asked for earlier on the same thing has been done. Those who wait do so here and
 * not on a lock in the database, where each would keep a connection from everybody else.
 */
export function withMutex<T>(key: string, work: () => Promise<T>): Promise<T> {
  const mine = (last.get(key) ?? Promise.resolve()).then(work)
  const done = mine.then(
    () => {},
    () => {},
  )
  last.set(key, done)
  void done.then(() => {
    if (last.get(key) === done) last.delete(key)
  })
  return mine
}

/** Work that some wait for, and what ends it when nobody does any more. */
type Run<T> = { result: Promise<T>; waiting: number; left: AbortController }

/**
 * Work that many ask for at once is done once for all who asked before it began: whoever asks while it is running gets
 * the next run, which sees everything that was there when they asked. It is told when all of them have left.
 */
export class Shared<T, By = void> {
  private running: Run<T> | undefined
  private next: Run<T> | undefined

  constructor(private readonly work: (by: By, left: AbortSignal) => Promise<T>) {}

  /** @param by who asks; the work is done for the first @param signal tells that who asked does not wait any more */
  get(by: By, signal?: AbortSignal): Promise<T> {
    // Of one that all have left before it began nothing comes any more.
    if (this.next?.left.signal.aborted) this.next = undefined
    const run = this.running ? (this.next ??= this.begin(by, this.running)) : (this.running = this.begin(by))
    run.waiting++
    const leave = () => {
      if (--run.waiting === 0) run.left.abort()
    }
    if (signal?.aborted) leave()
    else signal?.addEventListener('abort', leave, { once: true })
    return run.result
  }

  get isIdle(): boolean {
    return !this.running && !this.next
  }

  private begin(by: By, before?: Run<T>): Run<T> {
    const left = new AbortController()
    const after = before ? before.result.catch(() => {}) : undefined
    const run: Run<T> = {
      waiting: 0,
      left,
      result: (after ? after.then(() => this.work(by, left.signal)) : this.work(by, left.signal)).finally(() => {
        if (this.running !== run) return
        this.running = this.next
        this.next = undefined
      }),
    }
    return run
  }
}

/** The same for work on many things: what is running for each is shared by all who ask for that. */
export class SharedByKey<T, By = void> {
  private readonly running = new Map<string, Shared<T, By>>()

  constructor(private readonly work: (key: string, by: By, left: AbortSignal) => Promise<T>) {}

  async get(key: string, by: By, signal?: AbortSignal): Promise<T> {
    let shared = this.running.get(key)
    if (!shared) this.running.set(key, (shared = new Shared((who, left) => this.work(key, who, left))))
    try {
      return await shared.get(by, signal)
    } finally {
      if (shared.isIdle) this.running.delete(key)
    }
  }
}
