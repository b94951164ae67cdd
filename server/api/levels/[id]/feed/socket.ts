import { setTimeout as sleep } from 'node:timers/promises'
import { defineWebSocketHandler } from 'h3'
import { feedQuerySchema } from '../../../../../core/api/feed'
import { askerOf, HERE, levelOfSocket } from '../../../../auth/sockets'
import { CLOSED } from '../../../../services/live/rooms'
import { openFeed } from '../../../../utils/feed-route'
import { knownError } from '../../../../utils/known-error'
import { log } from '../../../../utils/log'

/** Bytes that lie ready for who is slow; milliseconds until it is looked again, and after which one is gone. */
const [MOST_READY, AGAIN, GONE] = [256 * 1024, 50, 60_000]

type Peer = Parameters<NonNullable<Parameters<typeof defineWebSocketHandler>[0]['open']>>[0]

const open = new Map<string, AbortController>()

/** What happens in a level, as texts by a WebSocket. Nothing is listened to: whoever says something is closed on. */
export default defineWebSocketHandler({
  open(peer) {
    const leaving = new AbortController()
    open.set(peer.id, leaving)
    void tell(peer, leaving.signal)
  },
  message(peer) {
    peer.close(CLOSED.refused, 'nothing is listened to here')
  },
  close(peer) {
    open.get(peer.id)?.abort()
    open.delete(peer.id)
  },
  error(_peer, error) {
    log.debug({ err: error }, 'a socket broke')
  },
})

async function tell(peer: Peer, signal: AbortSignal): Promise<void> {
  const levelId = levelOfSocket(peer.request.url)
  const query = feedQuerySchema.safeParse(Object.fromEntries(new URL(peer.request.url, HERE).searchParams))
  if (levelId === null || !query.success) return peer.close(CLOSED.refused, 'query')
  try {
    const feed = await openFeed(levelId, query.data.after, askerOf(peer.context), peer.id, signal)
    for await (const message of feed) {
      if (!(await hasTaken(peer, signal))) return peer.terminate()
      peer.send(JSON.stringify(message))
    }
    // Nothing is told any more: the server stops, or something else may be done from now on.
    peer.close(CLOSED.later, 'come again')
  } catch (error) {
    const known = knownError(error)
    if (!known) log.error({ err: error }, 'a feed broke')
    peer.close(known?.status === 422 ? CLOSED.refused : CLOSED.later, known?.message.slice(0, 100) ?? 'failed')
  }
}

/** Waits until most of what was sent is on its way; false if nothing is taken any more. */
async function hasTaken({ websocket }: Peer, signal: AbortSignal): Promise<boolean> {
  for (let waited = 0; (websocket.bufferedAmount ?? 0) > MOST_READY; waited += AGAIN) {
    if (waited > GONE || signal.aborted) return false
    await sleep(AGAIN)
  }
  return true
}
