import type { Remote } from 'comlink'
import { proxy, releaseProxy, wrap } from 'comlink'
import { reportError } from '~/errors/page-errors'

/** A worker was ended because nothing was heard of it for too long. */
export class WorkerTooLong extends Error {
  constructor() {
    super('It takes too long, and was ended.')
  }
}

/** Hands a function over to a worker: each call of it shows that the worker is at work. */
export type Heard = <A extends unknown[]>(told: (...all: A) => void) => (...all: A) => void

type Running<T> = {
  raw: Worker
  remote: Remote<T>
  /** Settles what is asked and not answered yet. */
  asked: Set<(why: WorkerTooLong | null) => void>
  /** Seconds since something was heard of it, or it was asked something while it had nothing to do. */
  quiet: number
}

/**
 * A worker of the page: it starts when it is first asked, may be ended at any time, and starts anew when it is asked
 * again. Nobody waits for it for ever. What goes wrong in it outside of an answer is reported as an error of the page.
 */
export class WorkerHost<T> {
  private running: Running<T> | null = null
  private watch: ReturnType<typeof setInterval> | undefined

  /**
   * @param seconds without a word from it while it is asked something, after which it is ended; those in which the page
   *   itself stands still do not count
   * @param onStart a new one knows nothing of what another was told
   */
  constructor(
    private readonly make: () => Worker,
    private readonly seconds: number,
    private readonly onStart: () => void = () => {},
  ) {}

  get isRunning(): boolean {
    return this.running !== null
  }

  /**
   * Asks the worker something.
   *
   * @returns null if the worker was ended before it answered
   * @throws what fails in the worker; WorkerTooLong
   */
  ask<R>(work: (remote: Remote<T>, heard: Heard) => Promise<R>): Promise<R | null> {
    const running = (this.running ??= this.start())
    if (running.asked.size === 0) running.quiet = 0
    const heard: Heard = told =>
      proxy((...all) => {
        running.quiet = 0
        if (this.running === running) told(...all)
      })
    return new Promise<R | null>((resolve, reject) => {
      const settle = (why: WorkerTooLong | null) => (why ? reject(why) : resolve(null))
      running.asked.add(settle)
      // Also what fails before anything was sent is an answer.
      void (async () => work(running.remote, heard))()
        .finally(() => {
          running.quiet = 0
          running.asked.delete(settle)
        })
        .then(resolve, reject)
    })
  }

  /** Tells the worker something, if it is there. */
  tell(work: (remote: Remote<T>) => unknown): void {
    if (this.running) work(this.running.remote)
  }

  /** Ends the worker and lets go of all that it holds. */
  end(why: WorkerTooLong | null = null): void {
    const ended = this.running
    if (!ended) return
    this.running = null
    clearInterval(this.watch)
    for (const settle of ended.asked) settle(why)
    ended.remote[releaseProxy]()
    ended.raw.terminate()
  }

  private start(): Running<T> {
    this.onStart()
    const raw = this.make()
    raw.addEventListener('error', event =>
      reportError(event.error ?? new Error(`In a worker: ${event.message}`), 'worker'),
    )
    raw.addEventListener('messageerror', () => reportError(new Error('What a worker said could not be read'), 'worker'))
    const running: Running<T> = { raw, remote: wrap<T>(raw), asked: new Set(), quiet: 0 }
    this.watch = setInterval(() => {
      if (running.asked.size > 0 && ++running.quiet >= this.seconds) this.end(new WorkerTooLong())
    }, 1000)
    return running
  }
}
