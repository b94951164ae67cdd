import { startTaking, stopTaking } from '../jobs/taking'

/** The server does jobs of the queue itself, unless others are to do them all: processes begun by npm run worker. */
export default defineNitroPlugin(nitroApp => {
  if (process.env.HANDY_GRID_WORK === 'no') return
  startTaking()
  nitroApp.hooks.hook('close', stopTaking)
})
