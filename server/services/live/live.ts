import { randomUUID } from 'node:crypto'
import { inArray } from 'drizzle-orm'
import type { Said } from '../../../core/api/people'
import { levels } from '../../db/schema'
import { ApiError } from '../../utils/api-error'
import { log } from '../../utils/log'
import { within } from '../../utils/within'
import { database } from '../database'
import { noteProgress } from '../progress'
import type { Announcement } from './announce'
import { Listener } from './listener'
import type { Speaker } from './people'
import { People } from './people'
import type { Listening } from './rooms'
import { Rooms } from './rooms'

/**
 * Milliseconds between two looks at how far levels are that somebody has open: what was announced while nobody could
 * hear it is told then. It also shows pages that their connection holds, and servers that this one is there.
 */
const LOOK = 20_000
/** Milliseconds in which what is new of people is gathered, to be told together. */
const TOGETHER = 40

/** This server's name among the servers. */
export const SERVER = randomUUID()

const rooms = new Rooms()
const people = new People(SERVER, {
  tell: message => rooms.tell(message),
  call: called => rooms.tell(called, called.call.to, called.by),
  announce: said => listener.say(said),
  soon: () => void setTimeout(() => people.flush(), TOGETHER),
  now: () => Date.now(),
})
const { promise: listening, resolve: nowListening } = withResolvers()
const listener = new Listener(hear, () => {
  nowListening()
  // Nor was it heard whose session has ended, and who may do something else.
  rooms.askAnew()
  people.begin()
  // What was announced before may have been missed.
  hear({ kit: true })
  void look()
})
type OfJob = Extract<Announcement, { job: string }>
const ofJobs = new Set<(said: OfJob) => void>()
let isListening = false
let isSentAway = false
let timer: ReturnType<typeof setInterval> | undefined

function hear(said: Announcement): void {
  if ('revision' in said || 'name' in said) rooms.tell(said)
  else if ('kit' in said) for (const level of rooms.levels) rooms.tell({ level, kit: true })
  else if ('ended' in said) rooms.end(said.ended)
  else if ('ticket' in said) noteProgress(said.ticket, said.progress)
  else if ('job' in said) for (const each of ofJobs) each(said)
  else people.hear(said)
}

/** Lets the other servers know something, if there are any. */
export function tellServers(said: Announcement): void {
  listen()
  if (people.hasOtherServers) listener.say(said)
}

/** @param listener is told from now on of the jobs that any server may do */
export function onJobs(listener: (said: OfJob) => void): void {
  ofJobs.add(listener)
  listen()
}

/** Lets all servers know something of a job, and this one at once. */
export function tellJobs(said: OfJob): void {
  for (const each of ofJobs) each(said)
  tellServers(said)
}

/** Milliseconds for which it is waited until the database is listened to. */
const PATIENCE = 5000

/** Listens, and waits until what is announced is heard. @throws ApiError 503 if the database is away */
export async function untilListening(): Promise<void> {
  listen()
  await within(PATIENCE, listening, new ApiError(503, 'busy', 'The database is away. Try again later.'), () => {})
}

/** Listens to the other servers, from when somebody has to do with them. */
export function listen(): void {
  if (isListening) return
  isListening = true
  void listener.start()
  timer = setInterval(() => {
    people.check()
    rooms.cutSilent(Date.now())
    void listener.check().then(() => look())
  }, LOOK)
  timer.unref()
}

function withResolvers(): { promise: Promise<void>; resolve: () => void } {
  let resolve = () => {}
  const promise = new Promise<void>(done => (resolve = done))
  return { promise, resolve }
}

/**
 * Somebody has a level open, which is listened to already, and is told from now on how far it is and who is there
 * besides.
 *
 * @returns whether there is room
 */
export function join(levelId: string, who: Listening): boolean {
  if (!rooms.join(levelId, who)) return false
  rooms.tellOne(who, { level: levelId, you: who.id, people: people.in(levelId), gone: [] })
  void look([levelId], revision => rooms.tellOne(who, { level: levelId, revision }))
  return true
}

/** A page says something of the person before it. */
export const say = (levelId: string, who: Speaker, said: Said): void => people.say(levelId, who, said)

export function leave(levelId: string, who: Listening): void {
  rooms.leave(levelId, who)
  people.leave(levelId, who.id)
}

/** Who listens here, and who is known of. */
export const liveCounts = () => ({
  listening: rooms.size,
  levels: rooms.levels.length,
  people: people.size,
  hearing: listener.isHearing ? 1 : 0,
})

/** Whether this server stops. */
export const isLeaving = () => isSentAway

/** Names of those who have a level open, with whatever server. */
export function namesIn(levelId: string): string[] {
  listen()
  return people.in(levelId).flatMap(({ name, away }) => (away ? [] : [name]))
}

/** Sends all pages away, who come back to whoever answers then. */
export function sendAway(): void {
  isSentAway = true
  people.end()
  rooms.closeAll()
}

/** Ends it all. */
export async function endLive(): Promise<void> {
  clearInterval(timer)
  sendAway()
  await listener.end()
}

/** Looks how far levels are, and tells it. */
async function look(
  of: string[] = rooms.levels,
  tell: (revision: number, level: string) => void = (revision, level) => rooms.tell({ level, revision }),
): Promise<void> {
  if (of.length === 0) return
  try {
    const found = await (await database())
      .select({ id: levels.id, revision: levels.revision })
      .from(levels)
      .where(inArray(levels.id, of))
    for (const { id, revision } of found) tell(revision, id)
  } catch (error) {
    // The next look is soon.
    log.warn({ err: error }, 'how far levels are could not be told')
  }
}
