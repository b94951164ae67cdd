import { inArray } from 'drizzle-orm'
import { levels } from '../../db/schema'
import { log } from '../../utils/log'
import { database } from '../database'
import { Listener } from './listener'
import type { Listening } from './rooms'
import { Rooms } from './rooms'

/**
 * Milliseconds between two looks at how far levels are that somebody has open: what was announced while nobody could
 * hear it is told then. It also shows pages that their connection holds.
 */
const LOOK = 20_000

const rooms = new Rooms()
const listener = new Listener(
  message => rooms.tell(message),
  () => void look(),
)
let isListening = false
let timer: ReturnType<typeof setInterval> | undefined

/** Somebody has a level open, and is told from now on how far it is. @returns whether there is room */
export function join(levelId: string, who: Listening): boolean {
  if (!rooms.join(levelId, who)) return false
  // Nobody listens before there is somebody to tell.
  if (!isListening) {
    isListening = true
    void listener.start()
    timer = setInterval(() => void listener.check().then(() => look()), LOOK)
    timer.unref()
  }
  void look([levelId], revision => rooms.tellOne(who, { level: levelId, revision }))
  return true
}

export const leave = (levelId: string, who: Listening): void => rooms.leave(levelId, who)

/** Sends all pages away, who come back to whoever answers then. */
export const sendAway = (): void => rooms.closeAll()

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
