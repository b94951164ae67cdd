import type { ChangesAnswer, ChangesRequest } from '~~/core/api/schema'
import type { Change, JournalEntry } from '~~/core/level/schema'
import { ApiFailure, ServerAway } from '../api/client'

export type SaveState
  = { kind: 'saved', revision: number }
    | { kind: 'saving', waiting: number }
    /** The server is away; the changes wait on this device. */
    | { kind: 'away', waiting: number }

export type QueueContent = { baseRevision: number, changes: Change[] }

/** What the queue needs of the world around it. */
export type QueueWorld = {
  send: (request: ChangesRequest) => Promise<ChangesAnswer>
  /** Keeps the queue on this device; called with every change of it. */
  keep: (content: QueueContent) => Promise<void>
  onState: (state: SaveState) => void
  /**
   * Others changed the level too, or the server will never take some of the waiting changes.
   * Returns the ids of those waiting that are given up: `lost`, and what cannot be kept without them or beside `others`.
   */
  giveWay: (others: JournalEntry[], lost: Change[], reason: string | null) => ReadonlySet<string>
}

const BATCH = 200
const RETRY_SECONDS = [1, 2, 4, 8, 10]

/**
 * Sends changes to the server in the order they were made, a batch at a time, and keeps those not yet answered on this
 * device. A change may be sent more than once, which its id makes harmless.
 */
export class ChangeQueue {
  private readonly waiting: Change[]
  private baseRevision: number
  private running: Promise<void> | undefined
  private failures = 0
  private retry: ReturnType<typeof setTimeout> | undefined
  private closed = false

  constructor(private readonly world: QueueWorld, content: QueueContent) {
    this.baseRevision = content.baseRevision
    this.waiting = [...content.changes]
  }

  get revision(): number {
    return this.baseRevision
  }

  get isEmpty(): boolean {
    return this.waiting.length === 0
  }

  add(change: Change): void {
    this.waiting.push(change)
    void this.keep()
    this.flush()
  }

  /** Tries to send at once, as when the network has come back. */
  flush(): void {
    clearTimeout(this.retry)
    if (this.closed) return
    this.running ??= this.run().finally(() => {
      this.running = undefined
    })
  }

  /** Resolves when the queue is empty or the server has turned out to be away. */
  async settled(): Promise<void> {
    this.flush()
    await this.running
  }

  close(): void {
    this.closed = true
    clearTimeout(this.retry)
  }

  private async run(): Promise<void> {
    // What comes in while this one is answered goes out with the next batch.
    while (this.waiting.length > 0 && !this.closed) {
      const batch = this.waiting.slice(0, BATCH)
      this.world.onState({ kind: this.failures > 0 ? 'away' : 'saving', waiting: this.waiting.length })
      try {
        const answer = await this.world.send({ baseRevision: this.baseRevision, changes: batch })
        this.waiting.splice(0, batch.length)
        this.take(answer.revision, answer.others, [])
      }
      catch (error) {
        if (error instanceof ServerAway) return this.tryLater()
        if (!(error instanceof ApiFailure)) throw error
        this.refuse(batch, error)
      }
      this.failures = 0
      await this.keep()
    }
    this.world.onState({ kind: 'saved', revision: this.baseRevision })
  }

  private tryLater(): void {
    const seconds = RETRY_SECONDS[Math.min(this.failures++, RETRY_SECONDS.length - 1)]!
    this.world.onState({ kind: 'away', waiting: this.waiting.length })
    this.retry = setTimeout(() => this.flush(), seconds * 1000)
  }

  private refuse(batch: Change[], { conflict, field, message }: ApiFailure): void {
    if (conflict) {
      const yours = new Set(conflict.yours)
      this.take(conflict.revision, conflict.others, batch.filter(change => yours.has(change.id)))
      return
    }
    // A field such as `changes.3.operations.0.id` tells which one is at fault; nothing of the batch was applied.
    const atFault = batch[Number(/^changes\.(\d+)/.exec(field ?? '')?.[1] ?? 0)]!
    this.drop(this.world.giveWay([], [atFault], message))
  }

  private take(revision: number, others: JournalEntry[], lost: Change[]): void {
    this.baseRevision = revision
    if (others.length > 0) this.drop(this.world.giveWay(others, lost, null))
  }

  private drop(ids: ReadonlySet<string>): void {
    const left = this.waiting.filter(change => !ids.has(change.id))
    this.waiting.splice(0, this.waiting.length, ...left)
  }

  private keep(): Promise<void> {
    return this.world.keep({ baseRevision: this.baseRevision, changes: [...this.waiting] })
  }
}
