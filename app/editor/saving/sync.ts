import type { Rebased, Unanswered } from '~~/core/level/rebase'
import type { Change, JournalEntry, Operation } from '~~/core/level/schema'
import type { ChangesAnswer } from '~~/core/api/schema'
import { api, ApiFailure, ServerAway } from '~/api/client'
import { notKept } from '~/errors/or-nothing'
import type { Refusal, SaveState } from './change-queue'
import { ChangeQueue } from './change-queue'
import { keepQueue, leftQueues } from './kept-queues'

/**
 * What a window that is gone left is sent so often before the level is opened; a change that the server fails on is set
 * apart by then.
 */
const LEFTOVER_TRIES = 4

/** Changes that could not be kept: refused by the server with what stood on it, or beside what others did first. */
export type GivenUp = { dropped: readonly Change[]; others: readonly JournalEntry[]; refused: Refusal | null }

export type SyncEvents = {
  onState: (state: SaveState) => void
  /** Puts others' changes under those that wait, and takes those out that are given up. */
  rebase: (ours: readonly Unanswered[], theirs: readonly JournalEntry[], lost: ReadonlySet<string>) => Rebased
  onGivenUp: (given: GivenUp) => void
}

/** Brings the changes of one open level to the server, and others' changes into it. */
export class Sync {
  /** By change id, in the order made. */
  private readonly unanswered = new Map<string, Unanswered>()
  private readonly queue: ChangeQueue

  constructor(
    levelId: string,
    window: string,
    baseRevision: number,
    private readonly events: SyncEvents,
  ) {
    this.queue = new ChangeQueue(
      {
        send: async request => {
          const answered = (applied: ChangesAnswer['applied']) => {
            for (const { id } of applied) this.unanswered.delete(id)
          }
          try {
            const answer = await api.saveChanges(levelId, request)
            answered(answer.applied)
            return answer
          } catch (error) {
            if (error instanceof ApiFailure) answered(error.conflict?.applied ?? [])
            throw error
          }
        },
        read: after => api.journal(levelId, after),
        keep: content => keepQueue(levelId, window, content),
        onState: events.onState,
        giveWay: (others, lost, refused) => this.giveWay(others, lost, refused),
      },
      { baseRevision, changes: [] },
    )
  }

  /** Of the server's level, as far as it is known here. */
  get revision(): number {
    return this.queue.revision
  }

  /** Whether the level here is that of the server. */
  get isEven(): boolean {
    return this.unanswered.size === 0
  }

  /** Sends a change that was applied. @param inverse takes it back */
  add(change: Change, inverse: Operation[]): void {
    this.unanswered.set(change.id, { change, inverse })
    this.queue.add(change)
  }

  /** The level is so far elsewhere. */
  hear(revision: number): void {
    this.queue.hear(revision)
  }

  /** Looks whether the level is farther elsewhere, where nothing is heard of it. */
  look(): void {
    this.queue.hear(this.queue.revision + 1)
  }

  /** Resolves when everything is saved or the server has turned out to be away. */
  settled(): Promise<void> {
    return this.queue.settled()
  }

  close(): void {
    this.queue.close()
    this.unanswered.clear()
  }

  private giveWay(others: JournalEntry[], lost: Change[], refused: Refusal | null): ReadonlySet<string> {
    const given = refused ? [refused.change] : lost
    const { kept, dropped } = this.events.rebase(
      [...this.unanswered.values()],
      others,
      new Set(given.map(({ id }) => id)),
    )
    this.unanswered.clear()
    for (const entry of kept) this.unanswered.set(entry.change.id, entry)
    if (dropped.length > 0) this.events.onGivenUp({ dropped, others, refused })
    return new Set(dropped.map(({ id }) => id))
  }
}

/**
 * Sends changes made before a reload, or in a window that is gone. Nothing is loaded yet, so what is given up only has
 * to be told.
 *
 * @throws ServerAway if not all of it could be sent
 */
export async function sendLeftovers(
  levelId: string,
  window: string,
  onGivenUp: (given: GivenUp) => void,
): Promise<void> {
  const queues = await leftQueues(levelId, window).catch((error: unknown) => {
    notKept(error)
    return []
  })
  for (const left of queues) {
    let reason = ''
    const leftover = new ChangeQueue(
      {
        send: request => api.saveChanges(levelId, request),
        read: after => api.journal(levelId, after),
        keep: content => keepQueue(levelId, left.window, content),
        onState: state => {
          if (state.kind === 'away') reason = state.reason
        },
        giveWay: (others, lost, refused) => {
          const dropped = refused ? [refused.change] : lost
          if (dropped.length > 0) onGivenUp({ dropped, others, refused })
          return new Set(dropped.map(({ id }) => id))
        },
      },
      left.content,
    )
    for (let tries = 0; !leftover.isEmpty && tries < LEFTOVER_TRIES; tries++) await leftover.settled()
    leftover.close()
    if (!leftover.isEmpty) throw new ServerAway(reason)
  }
}
