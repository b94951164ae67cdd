import type { LiveMessage } from '../../../core/api/live'

/** A page that has a level open. */
export type Listening = {
  /** Its own, a UUID. */
  id: string
  /** By which it may have the level open: a session, a person. With the end of one of them it ends too. */
  by: readonly string[]
  send: (text: string) => unknown
  close: (code: number, reason: string) => void
  /** Ends it at once, also where nobody holds the other end any more. */
  cut: () => void
  /** When it said something last, or came; milliseconds. */
  heardAt: number
  /** Bytes that it has not taken yet. */
  behind: () => number
}

/** Pages beyond which further ones are told to come later: of all levels, and of one. */
const [MOST_OF_ALL, MOST_OF_ONE] = [5000, 500]
/** Bytes that are kept for a page that does not take what it is told; it reads the journal when it comes back. */
const MOST_BEHIND = 64 * 1024
/** Milliseconds without a word after which a page counts as gone: those that are open say something more often. */
export const PAGE_SILENT = 150_000

/** Codes for closing (RFC 6455, 7.4.1; IANA's registry has 1013). */
export const CLOSED = { leaving: 1001, refused: 1008, later: 1013 } as const

/** Who has which level open, on this server. */
export class Rooms {
  private readonly rooms = new Map<string, Set<Listening>>()
  private count = 0

  get size(): number {
    return this.count
  }

  get levels(): string[] {
    return [...this.rooms.keys()]
  }

  /** @returns whether there is room; otherwise the page is told to come later */
  join(levelId: string, who: Listening): boolean {
    const room = this.rooms.get(levelId) ?? new Set()
    if (this.count >= MOST_OF_ALL || room.size >= MOST_OF_ONE) {
      who.close(CLOSED.later, 'too many')
      return false
    }
    if (room.has(who)) return true
    room.add(who)
    this.count++
    this.rooms.set(levelId, room)
    return true
  }

  leave(levelId: string, who: Listening): void {
    const room = this.rooms.get(levelId)
    if (!room?.delete(who)) return
    this.count--
    if (room.size === 0) this.rooms.delete(levelId)
  }

  /**
   * Tells all who have the level open.
   *
   * @param only tells one of them alone; all if null
   * @param but tells all but one
   */
  tell(message: LiveMessage, only: string | null = null, but: string | null = null): void {
    const room = this.rooms.get(message.level)
    if (!room) return
    const text = JSON.stringify(message)
    for (const who of [...room]) if ((only === null || who.id === only) && who.id !== but) this.send(who, text)
  }

  /** Tells one of them. */
  tellOne(who: Listening, message: LiveMessage): void {
    this.send(who, JSON.stringify(message))
  }

  /** Cuts those who say nothing any more: their computer sleeps, or has lost the network. @param now milliseconds */
  cutSilent(now: number): void {
    for (const room of this.rooms.values()) for (const who of room) if (now - who.heardAt > PAGE_SILENT) who.cut()
  }

  /** A session has ended, or somebody may do something else from now on. */
  end(ended: string): void {
    for (const room of this.rooms.values())
      for (const who of room) if (who.by.includes(ended)) who.close(CLOSED.refused, 'come in anew')
  }

  /** Sends those through the door again who may be let in no longer, or as somebody else, without it being heard. */
  askAnew(): void {
    for (const room of this.rooms.values())
      for (const who of room) if (who.by.length > 0) who.close(CLOSED.refused, 'come in anew')
  }

  /** Sends all away, who come back elsewhere. */
  closeAll(): void {
    for (const room of this.rooms.values()) for (const who of room) who.close(CLOSED.leaving, 'the server stops')
    this.rooms.clear()
    this.count = 0
  }

  private send(who: Listening, text: string): void {
    if (who.behind() > MOST_BEHIND) who.close(CLOSED.later, 'too far behind')
    else who.send(text)
  }
}
