import type { Called, PeopleMessage, Person, PersonUpdate, Said } from '../../../core/api/people'
import type { Role } from '../../../core/api/roles'
import { mayDo } from '../../../core/api/roles'
import { AWAY, RESERVED_AFTER, withUpdate } from '../../../core/api/people'
import type { OfPeople } from './announce'
import { LONGEST_ANNOUNCED } from './announce'

/** Milliseconds without a word of a server, after which the people with it count as gone. */
export const SERVER_SILENT = 65_000
/** People who are known, of all levels and servers; more are not told of. */
const MOST_KNOWN = 20_000

export type PeopleWorld = {
  /** Tells all pages with this server that have the level open. */
  tell: (message: PeopleMessage) => void
  /** Brings a call to a page with this server, or to all of the level. */
  call: (called: Called) => void
  announce: (said: OfPeople) => void
  /** Asks for `flush` soon; called once until that is done. */
  soon: () => void
  now: () => number
}

/** Who says something: their id, what they may do, and who that is if it is proven. */
export type Speaker = { id: string; role: Role; person: { name: string } | null }

type Level = {
  people: Map<string, Person>
  /** The server that each is with, or was with last. */
  homes: Map<string, string>
  /** When those left who are known only for what they have reserved; milliseconds. */
  leftAt: Map<string, number>
}
type News = { people: Map<string, PersonUpdate>; gone: Set<string>; own: Set<string> }

/**
 * Who has which level open, with this server and with the others, and what is told of them. What comes in a short time
 * is told together.
 */
export class People {
  private readonly levels = new Map<string, Level>()
  /** What was not told yet, by level. */
  private news = new Map<string, News>()
  /** Other servers, and when they were last heard of. */
  private readonly servers = new Map<string, number>()
  private count = 0

  /** @param server this one's name among the servers, a UUID */
  constructor(
    private readonly server: string,
    private readonly world: PeopleWorld,
  ) {}

  get size(): number {
    return this.count
  }

  get hasOtherServers(): boolean {
    return this.servers.size > 0
  }

  /** Everybody in a level who is known by name, also for what they have reserved alone. */
  in(level: string): Person[] {
    return [...(this.levels.get(level)?.people.values() ?? [])]
  }

  /** A page of this server says something. */
  say(level: string, { id: by, role, person }: Speaker, said: Said): void {
    if ('call' in said) {
      const called = { level, by, call: said.call }
      // Who has not said a name calls nobody.
      if (!this.levels.get(level)?.people.has(by)) return
      this.world.call(called)
      this.announce({ server: this.server, called })
    } else {
      const known = this.levels.get(level)?.people.get(by)
      // Nobody who is known by name says another one.
      const proven = person && 'name' in said.here ? { name: person.name, proven: true } : {}
      // Said once: lists of people are made anew by it.
      const fixed = known && !known.away && known.role === role ? {} : { role, away: false }
      const { reserved, ...here } = said.here
      // Who may change nothing keeps nothing from others.
      const kept = reserved && mayDo(role, 'work') ? { reserved } : {}
      this.put(level, this.server, { ...here, ...kept, ...proven, ...fixed, id: by })
    }
  }

  /** A page of this server has left. */
  leave(level: string, id: string): void {
    this.left(level, id, true)
  }

  /** What another server says, or this one, which is passed over. */
  hear(said: OfPeople): void {
    const { server } = said
    if (server === this.server) return
    const isKnown = this.servers.has(server)
    this.servers.set(server, this.world.now())
    if ('called' in said) this.world.call(said.called)
    else if ('is' in said) {
      if (said.is === 'over') return this.forget(server)
      if (said.is === 'new' && isKnown) this.announceAll()
    } else {
      if (said.anew) this.removeOf(server)
      for (const { level, ...update } of said.people) this.put(level, server, update)
      for (const { level, id } of said.gone)
        if (this.levels.get(level)?.homes.get(id) === server) this.remove(level, id, false)
    }
    // As long as it was not known, it was told of nobody.
    if (!isKnown) this.announceAll()
  }

  /** Begins, or begins again after what others said may have been missed. */
  begin(): void {
    this.world.announce({ server: this.server, is: 'new' })
    this.announceAll()
  }

  /** Says that this server is there, and gives up others that say nothing any more. */
  check(): void {
    this.world.announce({ server: this.server, is: 'there' })
    const now = this.world.now()
    for (const [server, at] of this.servers) if (now - at > SERVER_SILENT) this.forget(server)
    for (const [level, { homes, leftAt }] of [...this.levels])
      for (const [id, at] of [...leftAt])
        if (now - at > RESERVED_AFTER && homes.get(id) === this.server) this.remove(level, id, true)
  }

  /** Says that this server ends. */
  end(): void {
    this.world.announce({ server: this.server, is: 'over' })
  }

  /** Tells what is new. */
  flush(): void {
    const { news } = this
    this.news = new Map()
    const own: Extract<OfPeople, { people: unknown }>['people'] = []
    const gone: { level: string; id: string }[] = []
    for (const [level, each] of news) {
      this.world.tell({ level, people: [...each.people.values()], gone: [...each.gone] })
      for (const id of each.own) {
        const update = each.people.get(id)
        if (update) own.push({ level, ...update })
        else gone.push({ level, id })
      }
    }
    if (own.length > 0 || gone.length > 0) this.announcePeople(own, gone)
  }

  private put(level: string, server: string, update: PersonUpdate): void {
    const room: Level = this.levels.get(level) ?? { people: new Map(), homes: new Map(), leftAt: new Map() }
    const { people, homes, leftAt } = room
    const known = people.get(update.id)
    const home = homes.get(update.id)
    // Nobody speaks for people of another server, unless that was given up too early.
    const isForeign = home !== undefined && home !== server && !(known?.away && update.away === false)
    if (isForeign || (home === undefined && this.count >= MOST_KNOWN)) return
    const person = withUpdate(known, update)
    if (!person) return
    if (home === undefined) this.count++
    people.set(update.id, person)
    homes.set(update.id, server)
    if (!person.away) leftAt.delete(update.id)
    else if (!leftAt.has(update.id)) leftAt.set(update.id, this.world.now())
    this.levels.set(level, room)
    this.tellOf(level, update, server === this.server)
    if (update.reserved) this.takeFromAway(level, update.id, new Set(update.reserved))
  }

  private tellOf(level: string, update: PersonUpdate, isOwn: boolean): void {
    const news = this.newsOf(level)
    news.people.set(update.id, { ...news.people.get(update.id), ...update })
    news.gone.delete(update.id)
    if (isOwn) news.own.add(update.id)
  }

  /** What somebody reserves is reserved no longer by whoever is away: the same person come back, or one overruled. */
  private takeFromAway(level: string, id: string, taken: ReadonlySet<string>): void {
    for (const [other, { away, reserved }] of [...this.levels.get(level)!.people]) {
      if (other === id || !away || !reserved.some(each => taken.has(each))) continue
      const home = this.levels.get(level)!.homes.get(other)!
      const left = reserved.filter(each => !taken.has(each))
      if (left.length === 0) this.remove(level, other, home === this.server)
      else this.put(level, home, { id: other, reserved: left })
    }
  }

  /** Somebody has left: if anything is reserved by them, they stay known for that. */
  private left(level: string, id: string, isOwn: boolean): void {
    const room = this.levels.get(level)
    const person = room?.people.get(id)
    if (!room || !person || person.reserved.length === 0) return this.remove(level, id, isOwn)
    // From now on this server says how long, as any other does that knew them.
    room.homes.set(id, this.server)
    room.people.set(id, { ...person, ...AWAY })
    room.leftAt.set(id, this.world.now())
    this.tellOf(level, { id, ...AWAY }, isOwn)
  }

  private remove(level: string, id: string, isOwn: boolean): void {
    const room = this.levels.get(level)
    if (!room?.people.delete(id)) return
    room.homes.delete(id)
    room.leftAt.delete(id)
    this.count--
    if (room.people.size === 0) this.levels.delete(level)
    const news = this.newsOf(level)
    news.people.delete(id)
    news.gone.add(id)
    if (isOwn) news.own.add(id)
  }

  private removeOf(server: string): void {
    for (const [level, { homes }] of [...this.levels])
      for (const [id, home] of [...homes]) if (home === server) this.remove(level, id, false)
  }

  private forget(server: string): void {
    this.servers.delete(server)
    for (const [level, { homes }] of [...this.levels])
      for (const [id, home] of [...homes]) if (home === server) this.left(level, id, false)
  }

  private newsOf(level: string): News {
    if (this.news.size === 0) this.world.soon()
    let news = this.news.get(level)
    if (!news) this.news.set(level, (news = { people: new Map(), gone: new Set(), own: new Set() }))
    return news
  }

  /** Where no other server is nobody is told. */
  private announce(said: OfPeople): void {
    if (this.servers.size > 0) this.world.announce(said)
  }

  private announceAll(): void {
    const all = [...this.levels].flatMap(([level, { people, homes }]) =>
      [...people.values()].filter(({ id }) => homes.get(id) === this.server).map(person => ({ level, ...person })),
    )
    this.announcePeople(all, [], true)
  }

  /** In as many pieces as it takes, one field of a person at a time where one piece would not hold all. */
  private announcePeople(
    people: (PersonUpdate & { level: string })[],
    gone: { level: string; id: string }[],
    anew = false,
  ): void {
    if (this.servers.size === 0) return
    const { server } = this
    const empty = Buffer.byteLength(JSON.stringify({ server, people: [], gone: [], anew: true }))
    let piece: Extract<OfPeople, { people: unknown }> = { server, people: [], gone: [], ...(anew && { anew: true }) }
    let bytes = empty
    const send = () => {
      this.world.announce(piece)
      piece = { server, people: [], gone: [] }
      bytes = empty
    }
    const room = (each: object) => {
      const more = Buffer.byteLength(JSON.stringify(each)) + 1
      if (bytes + more > LONGEST_ANNOUNCED && bytes > empty) send()
      bytes += more
    }
    for (const each of people.flatMap(inPieces)) {
      room(each)
      piece.people.push(each)
    }
    for (const each of gone) {
      room(each)
      piece.gone.push(each)
    }
    if (anew || piece.people.length > 0 || piece.gone.length > 0) send()
  }
}

/** What is new of somebody, or what it is made of: no piece alone is longer than can be announced. */
function inPieces<U extends PersonUpdate & { level: string }>(update: U): U[] {
  const { picked, drags, reserved, ...rest } = update
  if (Buffer.byteLength(JSON.stringify(update)) < LONGEST_ANNOUNCED / 2) return [update]
  const { id, level } = update
  return [
    rest,
    ...(picked === undefined ? [] : [{ id, level, picked }]),
    ...(drags === undefined ? [] : [{ id, level, drags }]),
    ...(reserved === undefined ? [] : [{ id, level, reserved }]),
  ] as U[]
}
