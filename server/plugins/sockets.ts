import { LONGEST_SAID } from '../../core/api/people'
import { admitSocket } from '../auth/sockets'
import { endLive, sendAway } from '../services/live/live'

/** Whatever asks for a socket, at whatever address, comes through the door first. */
export default defineNitroPlugin(nitroApp => {
  Object.assign(nitroApp.h3App.websocket, {
    hooks: { upgrade: admitSocket },
    serverOptions: { maxPayload: LONGEST_SAID },
  })
  // Before Nitro ends connections that nothing is asked by, which sockets look like.
  for (const signal of ['SIGTERM', 'SIGINT'] as const) process.once(signal, sendAway)
  nitroApp.hooks.hook('close', endLive)
})
