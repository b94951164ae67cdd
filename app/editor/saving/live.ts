import { useIntervalFn, useWebSocket } from '@vueuse/core'
import { effectScope } from 'vue'
import type { LiveMessage } from '~~/core/api/live'
import { LIVE_PATH, readLiveMessage } from '~~/core/api/live'
import type { Said } from '~~/core/api/people'

/** Milliseconds before the connection is tried again at first, and at the most. */
const [FIRST_PAUSE, LONGEST_PAUSE] = [500, 20_000]
/** Milliseconds without a word, after which a connection counts as broken: the server says something more often. */
const SILENCE = 60_000
/** Milliseconds between two questions where no connection comes to stand. */
const ASKED = 10_000
/** The code by which the server closes on whoever may not go on as they were (RFC 6455, 7.4.1). */
const REFUSED = 1008

export type LiveEvents = {
  onMessage: (message: LiveMessage) => void
  /** What the server says is not understood. */
  onStrange: () => void
  /** Nothing is heard at present: whoever wants to know has to ask. */
  onDeaf: () => void
  /** What one may do is another, or nothing any more. */
  onRefused: () => void
}

/** A level that is listened to. */
export type Live = {
  /** Says something of the person here, if anybody hears it. */
  say: (said: Said) => void
  end: () => void
}

/** Hears what happens in a level, whoever does it, by a WebSocket that comes back by itself. */
export function listenTo(levelId: string, { onMessage, onStrange, onDeaf, onRefused }: LiveEvents): Live {
  const address = new URL(LIVE_PATH.replace(':id', levelId), location.href)
  address.protocol = address.protocol.replace('http', 'ws')
  const scope = effectScope(true)
  const socket = scope.run(() => {
    let heardAt = Date.now()
    const made = useWebSocket(address, {
      autoReconnect: {
        // Not all pages at the same moment, after a server that ended.
        delay: retries => Math.min(FIRST_PAUSE * 2 ** retries, LONGEST_PAUSE) * (0.5 + Math.random() / 2),
      },
      onConnected: () => {
        heardAt = Date.now()
      },
      onDisconnected: (_, { code }) => {
        if (code === REFUSED) onRefused()
      },
      onMessage: (_, { data }) => {
        heardAt = Date.now()
        const message = readLiveMessage(String(data))
        if (!message) onStrange()
        else if (message.level === levelId) onMessage(message)
      },
    })
    useIntervalFn(() => {
      if (made.status.value !== 'OPEN') onDeaf()
      // A computer that slept has a connection that nobody holds the other end of.
      else if (Date.now() - heardAt > SILENCE) made.open()
      // The server gives up pages that say nothing.
      else say({ here: {} })
    }, ASKED)
    // One that is closing counts as open until it is closed.
    const say = (said: Said) =>
      void (made.ws.value?.readyState === WebSocket.OPEN && made.send(JSON.stringify(said), false))
    return { say }
  })!
  return { say: socket.say, end: () => scope.stop() }
}
