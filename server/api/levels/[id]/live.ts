import { defineWebSocketHandler } from 'h3'
import { levelOfSocket } from '../../../auth/sockets'
import { join, leave } from '../../../services/live/live'
import type { Listening } from '../../../services/live/rooms'
import { CLOSED } from '../../../services/live/rooms'
import { log } from '../../../utils/log'

const listening = new Map<string, { levelId: string; who: Listening }>()

/** Tells pages that have a level open how far it is; they say nothing. Who may come in is looked at by a plugin. */
export default defineWebSocketHandler({
  open(peer) {
    const levelId = levelOfSocket(peer.request.url)
    if (levelId === null) return peer.close(CLOSED.refused, 'no such level')
    const who: Listening = {
      send: text => peer.send(text),
      close: (code, reason) => peer.close(code, reason),
      behind: () => peer.websocket.bufferedAmount ?? 0,
    }
    if (join(levelId, who)) listening.set(peer.id, { levelId, who })
  },
  message(peer) {
    peer.close(CLOSED.refused, 'nothing is said here')
  },
  close(peer) {
    const found = listening.get(peer.id)
    listening.delete(peer.id)
    if (found) leave(found.levelId, found.who)
  },
  error(_peer, error) {
    log.debug({ err: error }, 'a socket broke')
  },
})
