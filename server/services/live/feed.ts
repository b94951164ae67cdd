import { randomUUID } from 'node:crypto'
import type { FeedMessage } from '../../../core/api/feed'
import type { LiveMessage } from '../../../core/api/live'
import { readLiveMessage } from '../../../core/api/live'
import type { PeopleMessage, Person } from '../../../core/api/people'
import { withUpdates } from '../../../core/api/people'
import type { JournalEntry } from '../../../core/level/schema'
import type { LevelSummary } from '../../../core/api/schema'
import type { Listening } from './rooms'

/** What a feed needs of the server. */
export type FeedWorld = {
  /** Listens to what happens in the level, until `leave`; whether there is room. */
  join: (who: Listening) => boolean
  leave: (who: Listening) => void
  /** What was done after a revision: some of it, in order. */
  read: (after: number) => Promise<{ revision: number; entries: JournalEntry[] }>
}

/**
 * What happens in a level, for whoever takes it as fast as they can: changes are read from the journal as they are
 * taken, and of what is only of the moment the last is told. So nothing piles up here for who is slow.
 *
 * @param after the last revision that is known; what was done up to now is passed over when left out
 * @param by what lets them in: with its end the feed ends
 * @param signal ends it
 */
export async function* readFeed(
  { id, name, revision }: Pick<LevelSummary, 'id' | 'name' | 'revision'>,
  after: number | undefined,
  by: readonly string[],
  signal: AbortSignal,
  { join, leave, read }: FeedWorld,
): AsyncGenerator<FeedMessage, void, undefined> {
  const heard = new Heard(id)
  const end = () => heard.end()
  const who: Listening = {
    id: randomUUID(),
    by,
    send: text => heard.take(readLiveMessage(text)),
    close: end,
    cut: end,
    // It has nothing to say: whoever is gone is noticed by what is sent.
    heardAt: Infinity,
    behind: () => 0,
  }
  signal.addEventListener('abort', end)
  let at = after ?? revision
  try {
    yield { kind: 'begin', revision: at, name }
    if (!join(who)) return
    while (!heard.isOver) {
      for (const message of heard.give()) yield message
      while (heard.revision > at && !heard.isOver) {
        const { entries } = await read(at)
        for (const { revision: next, ...change } of entries) {
          yield { kind: 'change', revision: next, change }
          at = next
        }
        if (entries.length === 0) break
      }
      if (heard.isStill) yield { kind: 'still', revision: at }
      await heard.more()
    }
  } finally {
    signal.removeEventListener('abort', end)
    leave(who)
  }
}

/** What was heard since it was last told, each kind of thing once. */
class Heard {
  revision = 0
  isOver = false
  /** Whether it was said how far the level is, and nothing else. */
  isStill = false
  private people: ReadonlyMap<string, Person> = new Map()
  private readonly moving = new Map<string, FeedMessage>()
  private named: FeedMessage | null = null
  private kit: FeedMessage | null = null
  private wake = () => {}
  private isNews = false

  constructor(private readonly level: string) {}

  take(message: LiveMessage | null): void {
    if (!message || message.level !== this.level) return
    if ('revision' in message) {
      this.isStill = message.revision === this.revision
      this.revision = Math.max(this.revision, message.revision)
    } else if ('kit' in message) this.kit = { kind: 'kit' }
    else if ('name' in message) this.named = { kind: 'named', name: message.name, deleted: message.deleted }
    else if ('people' in message) this.takePeople(message)
    this.isNews = true
    this.wake()
  }

  private takePeople(message: PeopleMessage): void {
    const before = this.people
    this.people = withUpdates(before, message)
    for (const [id, { name, drags }] of this.people)
      if ((before.get(id)?.drags ?? null) !== drags) this.moving.set(id, asMoving(id, name, drags))
    // Who is gone holds nothing any more.
    for (const id of message.gone) {
      const gone = before.get(id)
      if (gone?.drags) this.moving.set(id, asMoving(id, gone.name, null))
    }
  }

  /** What is to be told, which is forgotten with that. */
  give(): FeedMessage[] {
    const told = [this.named, this.kit, ...this.moving.values()].filter(each => each !== null)
    this.named = this.kit = null
    this.moving.clear()
    this.isNews = false
    return told
  }

  /** When there is something more. */
  async more(): Promise<void> {
    this.isStill = false
    if (!this.isNews && !this.isOver) await new Promise<void>(done => (this.wake = done))
  }

  end(): void {
    this.isOver = true
    this.wake()
  }
}

const asMoving = (id: string, name: string, drags: Person['drags']): FeedMessage => ({
  kind: 'moving',
  by: { id, name },
  things: (drags?.things ?? []).map(({ partId: _partId, ...thing }) => thing),
})
