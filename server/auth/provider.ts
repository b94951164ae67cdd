import type { H3Event } from 'h3'
import { clearSession, getSession, updateSession } from 'h3'
import type { Configuration, IDToken } from 'openid-client'
import {
  allowInsecureRequests,
  authorizationCodeGrant,
  buildAuthorizationUrl,
  calculatePKCECodeChallenge,
  discovery,
  randomNonce,
  randomPKCECodeVerifier,
  randomState,
} from 'openid-client'
import { z } from 'zod'
import type { Role } from '../../core/api/roles'
import { ROLES } from '../../core/api/roles'
import { nameSchema } from '../../core/level/fields'
import { asName } from '../../core/units/text'
import { takeFromProvider } from '../services/accounts'
import { database } from '../services/database'
import { ApiError } from '../utils/api-error'
import { log } from '../utils/log'
import { BACK_PATH } from './back-path'
import { beginSession, doorSettings, sealedBy } from './keys'
import type { ProviderSettings } from './settings'

/** What is kept of somebody between going to the provider and coming back; seconds for which it is. */
const underwaySchema = z.object({ state: z.string(), nonce: z.string(), verifier: z.string(), to: z.string() })
const UNDERWAY = 600
/** Seconds for which an answer of the provider is waited for. */
const PATIENCE = 10

const NOT_HERE = () => new ApiError(404, 'not-found', 'There is no identity provider here.')

let found: Promise<Configuration> | undefined

/** What the provider says of itself (OpenID Connect Discovery 1.0), asked once. */
async function configuration({ issuer, clientId, clientSecret }: ProviderSettings): Promise<Configuration> {
  // Without HTTPS on this machine alone, as the settings have it.
  const execute = issuer.protocol === 'http:' ? [allowInsecureRequests] : []
  found ??= discovery(issuer, clientId, clientSecret, undefined, { execute, timeout: PATIENCE })
  try {
    return await found
  } catch (error) {
    found = undefined
    throw error
  }
}

/** Of a session of its own: the browser brings it along when another site leads back here. */
const underwayConfig = (event: H3Event) => {
  const { cookie, ...config } = sealedBy(event, 'sign-in')
  return {
    ...config,
    name: 'handy-grid-sign-in',
    maxAge: UNDERWAY,
    cookie: { ...cookie, sameSite: 'lax' as const, path: '/api/session/provider' },
  }
}

/** Where to go to sign in (OpenID Connect Core 1.0, 3.1.2.1, with PKCE, RFC 7636). @throws ApiError 404, 503 */
export async function beginSignIn(event: H3Event, to: string): Promise<URL> {
  const { provider } = doorSettings
  if (!provider) throw NOT_HERE()
  const [state, nonce, verifier] = [randomState(), randomNonce(), randomPKCECodeVerifier()]
  try {
    const address = buildAuthorizationUrl(await configuration(provider), {
      redirect_uri: new URL(BACK_PATH, provider.ownAddress).href,
      scope: provider.scope,
      code_challenge: await calculatePKCECodeChallenge(verifier),
      code_challenge_method: 'S256',
      state,
      nonce,
    })
    await updateSession(event, underwayConfig(event), { state, nonce, verifier, to })
    return address
  } catch (error) {
    log.warn({ err: error }, 'the identity provider could not be asked')
    throw new ApiError(503, 'provider-away', 'The identity provider cannot be reached.')
  }
}

/**
 * Takes in who comes back from the provider.
 *
 * @returns where they wanted to be
 * @throws ApiError 403 with `no-role`, `ended` or `not-signed-in`
 */
export async function endSignIn(event: H3Event): Promise<string> {
  const { provider } = doorSettings
  if (!provider) throw NOT_HERE()
  const config = underwayConfig(event)
  const underway = underwaySchema.safeParse((await getSession(event, config)).data)
  await clearSession(event, config)
  if (!underway.success) throw new ApiError(403, 'not-signed-in', 'This took too long, or was begun elsewhere.')
  const { state, nonce, verifier, to } = underway.data
  const claims = await claimsOf(provider, event, { state, nonce, verifier })
  const role = roleFrom(claims, provider)
  if (!role) throw new ApiError(403, 'no-role', 'The identity provider gives you no role here.')
  const subject = `${claims.iss} ${claims.sub}`
  const person = await takeFromProvider(await database(), { subject, name: nameFrom(claims), role })
  await beginSession(event, { person: person.id, since: null })
  return to
}

async function claimsOf(
  provider: ProviderSettings,
  event: H3Event,
  { state, nonce, verifier }: { state: string; nonce: string; verifier: string },
): Promise<IDToken> {
  try {
    const came = new URL(event.path, provider.ownAddress)
    const tokens = await authorizationCodeGrant(await configuration(provider), came, {
      pkceCodeVerifier: verifier,
      expectedState: state,
      expectedNonce: nonce,
      idTokenExpected: true,
    })
    const claims = tokens.claims()
    if (claims) return claims
  } catch (error) {
    log.warn({ err: error }, 'somebody could not be signed in')
  }
  throw new ApiError(403, 'not-signed-in', 'The identity provider did not let you in.')
}

/** The most that any of somebody's groups may do; null if none may anything. */
export function roleFrom(claims: Record<string, unknown>, { claim, roles }: ProviderSettings): Role | null {
  const given = claims[claim]
  const groups = Array.isArray(given) ? given : typeof given === 'string' ? given.split(/[\s,]+/) : []
  const may = new Set([...groups.map(group => roles.get(String(group))), roles.get('*')])
  return ROLES.findLast(role => may.has(role)) ?? null
}

/** What somebody is called, by the claims for it (OpenID Connect Core 1.0, 5.1), as far as that is a name here. */
function nameFrom(claims: IDToken): string {
  for (const each of [claims.name, claims.preferred_username, claims.email]) {
    const name = typeof each === 'string' ? nameSchema.safeParse(asName(each)).data : undefined
    if (name) return name
  }
  return asName(`Person ${claims.sub}`)
}
