import { useIntervalFn, useWebSocket } from '@vueuse/core'
import { effectScope } from 'vue'
import { LIVE_PATH, readLiveMessage } from '~~/core/api/live'
import { reportError } from '~/errors/page-errors'

/** Milliseconds before the connection is tried again at first, and at the most. */
const [FIRST_PAUSE, LONGEST_PAUSE] = [500, 20_000]
/** Milliseconds without a word, after which a connection counts as broken: the server says something more often. */
const SILENCE = 60_000
/** Milliseconds between two questions where no connection comes to stand. */
const ASKED = 10_000

export type LiveEvents = {
  /** The level is so far. */
  onRevision: (revision: number) => void
  /** Nothing is heard at present: whoever wants to know has to ask. */
  onDeaf: () => void
}

/**
 * Hears how far a level is, whoever changes it, by a WebSocket that comes back by itself.
 *
 * @returns ends it
 */
export function listenTo(levelId: string, { onRevision, onDeaf }: LiveEvents): () => void {
  const address = new URL(LIVE_PATH.replace(':id', levelId), location.href)
  address.protocol = address.protocol.replace('http', 'ws')
  const scope = effectScope(true)
  scope.run(() => {
    let heardAt = Date.now()
    const socket = useWebSocket(address, {
      autoReconnect: {
        // Not all pages at the same moment, after a server that ended.
        delay: retries => Math.min(FIRST_PAUSE * 2 ** retries, LONGEST_PAUSE) * (0.5 + Math.random() / 2),
      },
      onConnected: () => {
        heardAt = Date.now()
      },
      onMessage: (_, { data }) => {
        heardAt = Date.now()
        const message = readLiveMessage(String(data))
        if (!message) reportError(new Error('What the server tells of the level makes no sense'), 'event')
        else if (message.level === levelId) onRevision(message.revision)
      },
    })
    useIntervalFn(() => {
      if (socket.status.value !== 'OPEN') onDeaf()
      // A computer that slept has a connection that nobody holds the other end of.
      else if (Date.now() - heardAt > SILENCE) socket.open()
    }, ASKED)
  })
  return () => scope.stop()
}
