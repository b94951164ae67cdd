import { defineWebSocketHandler } from 'h3'
import { RateLimiterMemory } from 'rate-limiter-flexible'
import { readMessage } from '../../../../core/api/live'
import { SAID_AT_MOST, saidSchema } from '../../../../core/api/people'
import type { Asker } from '../../../auth/keys'
import { letInBy } from '../../../auth/keys'
import { askerOf, levelOfSocket } from '../../../auth/sockets'
import { join, leave, say } from '../../../services/live/live'
import type { Listening } from '../../../services/live/rooms'
import { CLOSED } from '../../../services/live/rooms'
import { log } from '../../../utils/log'

type Page = { levelId: string; who: Listening; asker: Asker }

const pages = new Map<string, Page>()
const rate = new RateLimiterMemory(SAID_AT_MOST)

/**
 * Tells pages that have a level open how far it is and who is there, and hears from them who is before them. Who may
 * come in is looked at by a plugin.
 */
export default defineWebSocketHandler({
  open(peer) {
    const levelId = levelOfSocket(peer.request.url)
    if (levelId === null) return peer.close(CLOSED.refused, 'no such level')
    const asker = askerOf(peer.context)
    const who: Listening = {
      id: peer.id,
      by: letInBy(asker),
      send: text => peer.send(text),
      close: (code, reason) => peer.close(code, reason),
      cut: () => peer.terminate(),
      heardAt: Date.now(),
      behind: () => peer.websocket.bufferedAmount ?? 0,
    }
    if (join(levelId, who)) pages.set(peer.id, { levelId, who, asker })
  },
  async message(peer, message) {
    const isWithin = await rate.consume(peer.id).then(
      () => true,
      () => false,
    )
    const page = pages.get(peer.id)
    if (!page) return
    page.who.heardAt = Date.now()
    if (!isWithin) return peer.close(CLOSED.refused, 'too much is said')
    const said = readMessage(saidSchema, message.text())
    if (!said) return peer.close(CLOSED.refused, 'this makes no sense')
    const { role, person } = page.asker
    say(page.levelId, { id: page.who.id, role: role ?? 'look', person }, said)
  },
  close(peer) {
    const page = pages.get(peer.id)
    pages.delete(peer.id)
    if (page) leave(page.levelId, page.who)
  },
  error(_peer, error) {
    log.debug({ err: error }, 'a socket broke')
  },
})
