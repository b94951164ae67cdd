import type { Role } from '../../core/api/roles'
import { roleSchema } from '../../core/api/roles'
import { MEGABYTE } from '../../core/api/routes'

/** How the server may be reached, by its environment; read once. */
export type DoorSettings = {
  /** Names by which it may be asked, besides addresses; in small letters, without a port. */
  names: ReadonlySet<string>
  /** Whoever brings it may do everything; nobody is asked for one if null. */
  writingKey: string | null
  /** Whoever brings it may look at everything. */
  readingKey: string | null
  /** Who signs people in, if somebody does. */
  provider: ProviderSettings | null
  /** Bytes of the largest glTF file that is taken in. */
  largestFile: number
  /** Whether a proxy before the server says who asks. */
  trustsProxy: boolean
}

/** An identity provider that speaks OpenID Connect. */
export type ProviderSettings = {
  issuer: URL
  clientId: string
  clientSecret: string
  /** What people read on the button. */
  name: string
  scope: string
  /** The claim that has somebody's groups, and what each group may do; `*` is everybody. */
  claim: string
  roles: ReadonlyMap<string, Role>
  /** Where browsers reach this server. */
  ownAddress: URL
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
    provider: readProvider(env, writingKey),
    largestFile: Math.floor(megabytes * MEGABYTE),
    trustsProxy: env.TRUST_PROXY === '1',
  }
}

function readProvider(env: Record<string, string | undefined>, writingKey: string | null): ProviderSettings | null {
  if (!env.OIDC_ISSUER) return null
  const need = (name: string) => {
    const value = env[name]
    if (!value) throw new Error(`${name} is not set: OIDC_ISSUER needs it beside it.`)
    return value
  }
  const address = (name: string) => {
    const value = need(name)
    if (!URL.canParse(value)) throw new Error(`${name} is no address.`)
    const url = new URL(value)
    if (url.protocol !== 'https:' && !(url.protocol === 'http:' && isLoopback(url.hostname)))
      throw new Error(`${name} has to begin with https:// (or be on this machine).`)
    return url
  }
  if (!writingKey) throw new Error('OIDC_ISSUER needs HANDY_GRID_KEY beside it.')
  const roles = need('OIDC_ROLES')
    .split(',')
    .map(pair => {
      const at = pair.lastIndexOf('=')
      const role = roleSchema.safeParse(pair.slice(at + 1).trim())
      if (at < 1 || !role.success)
        throw new Error(`OIDC_ROLES: "${pair.trim()}" is not group=role, with look, note, work or keep.`)
      return [pair.slice(0, at).trim(), role.data] as const
    })
  return {
    issuer: address('OIDC_ISSUER'),
    clientId: need('OIDC_CLIENT_ID'),
    clientSecret: need('OIDC_CLIENT_SECRET'),
    name: env.OIDC_NAME || 'the identity provider',
    scope: env.OIDC_SCOPE || 'openid profile email',
    claim: env.OIDC_CLAIM || 'groups',
    roles: new Map(roles),
    ownAddress: address('HANDY_GRID_ADDRESS'),
  }
}

/** Whether an address or name is this machine itself. */
export function isLoopback(host: string): boolean {
  return /^(localhost|127(\.\d{1,3}){3}|::1|\[::1\]|::ffff:127(\.\d{1,3}){3})$/i.test(host)
}
