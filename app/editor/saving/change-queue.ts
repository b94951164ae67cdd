import type { ChangesAnswer, ChangesRequest, Journal } from '~~/core/api/schema'
import { MEGABYTE, ROUTES } from '~~/core/api/routes'
import type { Change, JournalEntry } from '~~/core/level/schema'
import { ApiFailure, ServerAway } from '~/api/client'

export type SaveState =
  | { kind: 'saved'; revision: number }
  | { kind: 'saving'; waiting: number }
  /**
   * Tried again later, for a reason in words; the changes wait on this device, or in this window alone if it keeps
   * nothing.
   */
  | { kind: 'away'; waiting: number; isKept: boolean; reason: string }

export type QueueContent = { baseRevision: number; changes: Change[] }

/** Why a change was given up by the server, in words. */
export type Refusal = { change: Change; reason: string }

/** What the queue needs of the world around it. */
export type QueueWorld = {
  send: (request: ChangesRequest) => Promise<ChangesAnswer>
  /** What was done to the level after a revision. */
  read: (after: number) => Promise<Journal>
  /** Keeps the queue on this device; called with every change of it. */
  keep: (content: QueueContent) => Promise<void>
  onState: (state: SaveState) => void
  /**
   * Others changed the level too, or the server does not take some of the waiting changes.
   * Returns the ids of those waiting that are given up: `lost`, what was refused, and what cannot be kept without them
   * or beside `others`.
   */
  giveWay: (others: JournalEntry[], lost: Change[], refused: Refusal | null) => ReadonlySet<string>
}

/** Changes and bytes that go together at most; one that is larger goes alone. */
const MOST_CHANGES = 200
const MOST_BYTES = 4 * MEGABYTE
/** Bytes that the server takes at most, less what is around the changes. */
const LARGEST = ROUTES.saveChanges.body.limit - 1024
const RETRY_SECONDS = [1, 2, 4, 8, 10]
/** How often a change is sent that the server fails on, before it is set apart. */
const TRIES = 3

/** Answers that are about who asks, not about what is asked. */
const DOOR = [401, 403, 421]

type Waiting = { change: Change; bytes: number; failures: number }

/**
 * Sends changes to the server in the order they were made, a batch at a time, and keeps those not yet answered on this
 * device. A change may be sent more than once, which its id makes harmless. One that the server refuses, or fails on
 * again and again, is given up, and those behind it go on.
 */
export class ChangeQueue {
  private readonly waiting: Waiting[]
  private baseRevision: number
  private running: Promise<void> | undefined
  private absences = 0
  private retry: ReturnType<typeof setTimeout> | undefined
  private closed = false
  /** Whether what waits has reached the device's store. */
  private isKept = false
  private reason = ''
  /** How far the level is elsewhere, as far as that was heard. */
  private heard = 0
  /** How many of the first changes go one by one, to find the one that is refused. */
  private oneByOne = 0

  constructor(
    private readonly world: QueueWorld,
    content: QueueContent,
  ) {
    this.baseRevision = content.baseRevision
    this.waiting = content.changes.map(change => weigh(change))
  }

  get revision(): number {
    return this.baseRevision
  }

  get isEmpty(): boolean {
    return this.waiting.length === 0
  }

  add(change: Change): void {
    this.waiting.push(weigh(change))
    void this.keep()
    this.flush()
  }

  /** The level is so far elsewhere: what is not known here is read, or comes with the answer to what waits. */
  hear(revision: number): void {
    if (revision <= Math.max(this.heard, this.baseRevision)) return
    this.heard = revision
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

  /** Resolves when the queue is empty or has turned out to have to wait. */
  async settled(): Promise<void> {
    this.flush()
    await this.running
  }

  /** Nothing is sent, kept or told any more, whatever is answered later. What waits stays on the device. */
  close(): void {
    this.closed = true
    clearTimeout(this.retry)
  }

  private async run(): Promise<void> {
    // What comes in while this one is answered goes out with the next batch.
    while ((this.waiting.length > 0 || this.heard > this.baseRevision) && !this.closed) {
      if (this.waiting.length === 0) {
        if (!(await this.readOthers())) return
        continue
      }
      const batch = this.nextBatch()
      this.tell()
      try {
        if (batch[0]!.bytes > LARGEST)
          throw new ApiFailure(413, 'too-large', 'It is larger than what can be sent at once.')
        const answer = await this.world.send({
          baseRevision: this.baseRevision,
          changes: batch.map(({ change }) => change),
        })
        if (this.closed) return
        this.waiting.splice(0, batch.length)
        this.oneByOne = Math.max(this.oneByOne - batch.length, 0)
        this.take(answer.revision, answer.others, [])
      } catch (error) {
        if (this.closed) return
        const mayGoOn = error instanceof ApiFailure ? this.refuse(batch, error) : false
        if (!mayGoOn)
          return this.tryLater(
            error instanceof ApiFailure || error instanceof ServerAway
              ? error.message
              : 'The answer of the server could not be read.',
          )
      }
      this.absences = 0
      await this.keep()
    }
    if (!this.closed) this.tell()
  }

  /** Reads what others did, where nothing waits that would bring it. @returns whether to go on at once */
  private async readOthers(): Promise<boolean> {
    const after = this.baseRevision
    try {
      const { revision, entries } = await this.world.read(after)
      if (this.closed) return false
      if (entries.some((entry, i) => entry.revision !== after + i + 1)) throw new RangeError('the journal has a gap')
      this.absences = 0
      // Of a level that was taken back from a copy less may be known than was heard.
      this.heard = entries.length > 0 ? Math.max(this.heard, revision) : after
      if (entries.length > 0) this.take(entries.at(-1)!.revision, entries, [])
    } catch (error) {
      if (this.closed) return false
      if (error instanceof ServerAway) {
        this.tryLater(error.message)
        return false
      }
      // Until it is heard of again: the level may be gone, or may not be looked at any more.
      this.heard = after
      if (!(error instanceof ApiFailure)) throw error
      return this.waiting.length > 0
    }
    await this.keep()
    return true
  }

  private nextBatch(): Waiting[] {
    const most = this.oneByOne > 0 ? 1 : MOST_CHANGES
    let [count, bytes] = [0, 0]
    while (
      count < Math.min(most, this.waiting.length)
      && (count === 0 || bytes + this.waiting[count]!.bytes <= MOST_BYTES)
    )
      bytes += this.waiting[count++]!.bytes
    return this.waiting.slice(0, count)
  }

  private tryLater(reason: string): void {
    const seconds = RETRY_SECONDS[Math.min(this.absences++, RETRY_SECONDS.length - 1)]!
    this.reason = reason
    this.tell()
    this.retry = setTimeout(() => this.flush(), seconds * 1000)
  }

  private tell(): void {
    const waiting = this.waiting.length
    if (waiting === 0) this.world.onState({ kind: 'saved', revision: this.baseRevision })
    else if (this.absences > 0) this.world.onState({ kind: 'away', waiting, isKept: this.isKept, reason: this.reason })
    else this.world.onState({ kind: 'saving', waiting })
  }

  /** @returns whether the rest can go on at once */
  private refuse(batch: Waiting[], failure: ApiFailure): boolean {
    const { conflict, field, status, message } = failure
    if (conflict) {
      const yours = new Set(conflict.yours)
      // Their answer was lost: they are in the level already, below what others did.
      this.drop(new Set(conflict.applied.map(({ id }) => id)))
      this.take(
        conflict.revision,
        conflict.others,
        batch.filter(({ change }) => yours.has(change.id)).map(({ change }) => change),
      )
      return true
    }
    // Kept out at the door, by a key that has run out for instance; the changes are as good as before.
    if (DOOR.includes(status)) return false
    // A field such as `changes.3.operations.0.id` tells which one is at fault; nothing of the batch was applied.
    const named = status < 500 ? batch[Number(/^changes\.(\d+)/.exec(field ?? '')?.[1] ?? -1)] : undefined
    const atFault = named ?? (batch.length === 1 ? batch[0]! : null)
    if (!atFault) {
      this.oneByOne = batch.length
      return true
    }
    if (status >= 500 && ++atFault.failures < TRIES) return false
    // The place in the request means nothing to a person; the field's own name does.
    this.drop(
      this.world.giveWay([], [], {
        change: atFault.change,
        reason: message.replace(/^changes\.\d+\.(operations\.\d+\.)?(fields\.)?/, ''),
      }),
    )
    return true
  }

  private take(revision: number, others: JournalEntry[], lost: Change[]): void {
    this.baseRevision = revision
    if (others.length > 0) this.drop(this.world.giveWay(others, lost, null))
  }

  private drop(ids: ReadonlySet<string>): void {
    const left = this.waiting.filter(({ change }) => !ids.has(change.id))
    this.waiting.splice(0, this.waiting.length, ...left)
  }

  /** A device that keeps nothing does not stop the sending; it is only said. */
  private async keep(): Promise<void> {
    const changes = this.waiting.map(({ change }) => change)
    this.isKept = false
    const isKept = await this.world.keep({ baseRevision: this.baseRevision, changes }).then(
      () => true,
      () => false,
    )
    if (this.closed || this.waiting.at(-1)?.change !== changes.at(-1)) return
    this.isKept = isKept
    if (this.absences > 0) this.tell()
  }
}

function weigh(change: Change): Waiting {
  return { change, bytes: new TextEncoder().encode(JSON.stringify(change)).length + 1, failures: 0 }
}
