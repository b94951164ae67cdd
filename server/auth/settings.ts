import { MEGABYTE } from '../../core/api/routes'

/** How the server may be reached, by its environment; read once. */
export type DoorSettings = {
  /** Names by which it may be asked, besides addresses; in small letters, without a port. */
  names: ReadonlySet<string>
  /** Whoever brings it may do everything; nobody is asked for one if null. */
  writingKey: string | null
  /** Whoever brings it may look at everything. */
  readingKey: string | null
  /** Bytes of the largest glTF file that is taken in. */
  largestFile: number
  /** Whether a proxy before the server says who asks. */
  trustsProxy: boolean
}

const SHORTEST_KEY = 12
/** Megabytes: of the largest file taken in, if nothing else is said, and at most. */
const [FILE, MOST_FILE] = [64, 512]

/** @throws Error with what is wrong with the settings */
export function readDoorSettings(env: Record<string, string | undefined>): DoorSettings {
  const host = env.NITRO_HOST || env.HOST || '0.0.0.0'
  const writingKey = env.HANDY_GRID_KEY || null
  const readingKey = env.HANDY_GRID_READING_KEY || null
  if (!isLoopback(host) && !writingKey)
    throw new Error(`HANDY_GRID_KEY is not set: beyond loopback (HOST is ${host}) nobody is let in without a key.`)
  for (const key of [writingKey, readingKey])
    if (key && key.length < SHORTEST_KEY) throw new Error(`A key has to be at least ${SHORTEST_KEY} characters long.`)
  if (readingKey && !writingKey) throw new Error('HANDY_GRID_READING_KEY needs HANDY_GRID_KEY beside it.')
  if (readingKey && readingKey === writingKey) throw new Error('The reading key and the writing key have to differ.')
  const megabytes = Number(env.HANDY_GRID_LARGEST_FILE || FILE)
  if (!(megabytes >= 1 && megabytes <= MOST_FILE))
    throw new Error(`HANDY_GRID_LARGEST_FILE has to be a number of megabytes from 1 to ${MOST_FILE}.`)
  const named = (env.ALLOWED_HOSTS ?? '')
    .split(',')
    .map(name => name.trim().toLowerCase())
    .filter(Boolean)
  return {
    names: new Set(['localhost', host.toLowerCase(), ...named]),
    writingKey,
    readingKey,
    largestFile: Math.floor(megabytes * MEGABYTE),
    trustsProxy: env.TRUST_PROXY === '1',
  }
}

/** Whether an address or name is this machine itself. */
export function isLoopback(host: string): boolean {
  return /^(localhost|127(\.\d{1,3}){3}|::1|\[::1\]|::ffff:127(\.\d{1,3}){3})$/i.test(host)
}
