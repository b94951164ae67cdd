import { createServer } from 'node:http'
import type { Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { eq } from 'drizzle-orm'
import Provider from 'oidc-provider'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { Account } from '../../core/api/accounts'
import { readDoorSettings } from '../../server/auth/settings'
import { people } from '../../server/db/schema'
import type { TestServer } from '../server'
import { makeServer } from '../server'

// Signing in by OpenID Connect, against a certified implementation of the standard (the package `oidc-provider`), which
// runs here as the studio's own would: code flow with PKCE, its own pages for signing in.

const KEY = 'the-writing-key-of-the-tests'
const CLIENT = { client_id: 'handy-grid', client_secret: 'the-secret-of-the-client' }
/** What the provider says of those who sign in, by the name they give. */
const ACCOUNTS: Record<string, { name: string; groups: string[] }> = {
  ada: { name: 'Ada of the quay', groups: ['artists'] },
  ben: { name: 'Ben', groups: ['artists', 'leads'] },
  cy: { name: 'Cy', groups: ['accounting'] },
  twin: { name: 'ada OF the quay', groups: ['guests'] },
  odd: { name: '  <b>\u0007 ', groups: ['guests'] },
}

let server: TestServer
let identity: Server
let issuer: string
let listens: (request: Parameters<ReturnType<Provider['callback']>>[0], response: never) => unknown

/** What a browser does: follows, and keeps cookies apart by where they are from. */
function browser() {
  const jar = new Map<string, string>()
  async function go(address: string, body?: Record<string, string>): Promise<{ response: Response; at: string }> {
    let at = address
    let sent = body && new URLSearchParams(body)
    for (let i = 0; i < 20; i++) {
      const { origin } = new URL(at)
      const own = [...jar].filter(([name]) => name.startsWith(`${origin} `))
      const response = await fetch(at, {
        method: sent ? 'POST' : 'GET',
        body: sent,
        redirect: 'manual',
        headers: { cookie: own.map(([name, value]) => `${name.split(' ')[1]}=${value}`).join('; ') },
      })
      for (const cookie of response.headers.getSetCookie()) {
        const [, name, value] = /^([^=]+)=([^;]*)/.exec(cookie)!
        if (/expires=Thu, 01 Jan 1970|max-age=0/i.test(cookie)) jar.delete(`${origin} ${name}`)
        else jar.set(`${origin} ${name}`, value!)
      }
      const to = response.headers.get('location')
      if (!to || at.startsWith(server.url + '/enter')) return { response, at }
      ;[at, sent] = [new URL(to, at).href, undefined]
    }
    throw new Error('it goes in circles')
  }
  return { go, jar }
}

/** Signs in at the provider and comes back. @returns where that leads to */
async function signIn(login: string, who = browser(), to = '/'): Promise<{ at: string; who: typeof who }> {
  const asked = await who.go(`${server.url}/api/session/provider?${new URLSearchParams({ to })}`)
  let form = await asked.response.text()
  let at = asked.at
  // Its own pages: who one is, then whether that may be told.
  for (let page = 0; page < 2 && at.startsWith(issuer); page++) {
    const action = /action="([^"]+)"/.exec(form)![1]!
    const prompt = /name="prompt" value="(\w+)"/.exec(form)![1]!
    const next = await who.go(new URL(action, at).href, { prompt, login, password: 'x' })
    form = await next.response.text()
    at = next.at
  }
  return { at, who }
}

const session = async (who: ReturnType<typeof browser>) => {
  const { response } = await who.go(`${server.url}/api/session`)
  return [response.status, ((await response.json()) as { role?: string; person?: { name: string } }) ?? null] as const
}

beforeAll(async () => {
  identity = createServer((request, response) => void listens(request, response as never))
  await new Promise<void>(resolve => identity.listen(0, '127.0.0.1', resolve))
  issuer = `http://127.0.0.1:${(identity.address() as AddressInfo).port}`
  server = await makeServer({
    env: port => ({
      HANDY_GRID_KEY: KEY,
      OIDC_ISSUER: issuer,
      OIDC_CLIENT_ID: CLIENT.client_id,
      OIDC_CLIENT_SECRET: CLIENT.client_secret,
      OIDC_NAME: 'Quay Studio',
      OIDC_ROLES: 'artists=work, leads=keep, guests=look',
      HANDY_GRID_ADDRESS: `http://127.0.0.1:${port}`,
    }),
  })
  const provider = new Provider(issuer, {
    clients: [{ ...CLIENT, redirect_uris: [`${server.url}/api/session/provider/back`] }],
    claims: { openid: ['sub', 'groups'], profile: ['name'], email: [] },
    conformIdTokenClaims: false,
    findAccount: (_, sub) => ({ accountId: sub, claims: () => ({ sub, ...ACCOUNTS[sub] }) }),
    cookies: { keys: ['of the tests'] },
  })
  listens = provider.callback() as typeof listens
})
afterAll(async () => {
  await server.dispose()
  identity.closeAllConnections()
  identity.close()
})

describe("the studio's own identity provider", () => {
  it('signs people in by name, with what their groups may do, and leads them where they wanted to be', async () => {
    const { at, who } = await signIn('ada', browser(), '/levels/x?from=y')
    expect(at).toBe(`${server.url}/levels/x?from=y`)
    expect(await session(who)).toMatchObject([200, { role: 'work', person: { name: 'Ada of the quay' } }])
    // The most that any of the groups may.
    const ben = await signIn('ben')
    expect(await session(ben.who)).toMatchObject([200, { role: 'keep', person: { name: 'Ben' } }])
  })

  it('knows them again by their subject, with what they may do now', async () => {
    const before = await signIn('ada')
    const id = (await session(before.who))[1].person
    ACCOUNTS.ada = { name: 'Ada of the canal', groups: ['guests'] }
    const after = await signIn('ada')
    expect((await session(after.who))[1]).toMatchObject({ role: 'look', person: { ...id, name: 'Ada of the canal' } })
    // Elsewhere as well, from now on.
    expect((await session(before.who))[1]).toMatchObject({ role: 'look' })
    ACCOUNTS.ada = { name: 'Ada of the quay', groups: ['artists'] }
    await signIn('ada')
  })

  it('gives a name that is taken a number, and who has none another one', async () => {
    expect((await session((await signIn('twin')).who))[1].person).toMatchObject({ name: 'ada OF the quay 2' })
    const odd = (await session((await signIn('odd')).who))[1].person
    expect(odd!.name).toMatch(/\w/)
  })

  it('lets nobody in whose groups may nothing, or who was ended here, and says so where one comes in', async () => {
    expect((await signIn('cy')).at).toBe(`${server.url}/enter?refused=no-role`)
    const ben = await signIn('ben')
    const { person } = (await session(ben.who))[1] as { person: { id: string; name: string } }
    const keeper = { 'authorization': `Bearer ${KEY}`, 'content-type': 'application/json' }
    const path = `${server.url}/api/people/${person.id}`
    // Its word goes before a keeper's.
    const renamed = await fetch(path, { method: 'PATCH', headers: keeper, body: JSON.stringify({ role: 'look' }) })
    expect(renamed.status).toBe(409)
    expect((await fetch(`${path}/key`, { method: 'POST', headers: keeper, body: '{}' })).status).toBe(409)
    expect((await fetch(path, { method: 'DELETE', headers: keeper })).status).toBe(204)
    expect((await session(ben.who))[0]).toBe(401)
    expect((await signIn('ben')).at).toBe(`${server.url}/enter?refused=ended`)
    const back = await fetch(path, { method: 'PATCH', headers: keeper, body: JSON.stringify({ ended: false }) })
    expect((await back.json()) as Account).toMatchObject({ endedAt: null, by: 'provider' })
    expect((await session((await signIn('ben')).who))[0]).toBe(200)
  })

  it('is believed only by the browser that was sent there, once, with what it was sent with', async () => {
    const asked = await browser().go(`${server.url}/api/session/provider`)
    expect(asked.at.startsWith(`${issuer}/interaction/`)).toBe(true)
    for (const query of ['', '?code=x&state=y', '?error=access_denied&state=y', `?${'x=1&'.repeat(200)}`]) {
      const stranger = await browser().go(`${server.url}/api/session/provider/back${query}`)
      expect(stranger.at).toBe(`${server.url}/enter?refused=not-signed-in`)
    }
    const half = browser()
    await half.go(`${server.url}/api/session/provider`)
    expect((await half.go(`${server.url}/api/session/provider/back?code=x&state=y`)).at).toContain('not-signed-in')
    expect((await session(half))[0]).toBe(401)
    for (const to of ['https://evil.example', '//evil.example', '/\\evil.example', 'x'])
      expect((await fetch(`${server.url}/api/session/provider?${new URLSearchParams({ to })}`)).status).toBe(422)
  })

  it('may lead back from another site, to that one address alone', async () => {
    const headers = { 'sec-fetch-site': 'cross-site' }
    const back = await fetch(`${server.url}/api/session/provider/back?code=x`, { headers, redirect: 'manual' })
    expect(back.status).toBe(303)
    for (const path of ['/api/session/provider', '/api/session', '/api/session/provider/back/../../levels'])
      expect((await fetch(server.url + path, { headers, redirect: 'manual' })).status).toBe(403)
    expect((await fetch(`${server.url}/api/session/provider/back`, { method: 'POST', headers })).status).toBe(403)
  })

  it('keeps no keys here, and is said to be there', async () => {
    const rows = await server.db.select().from(people).where(eq(people.name, 'Ada of the quay'))
    expect(rows).toMatchObject([{ keyHash: null, subject: `${issuer} ada` }])
    expect(await (await fetch(`${server.url}/api/session/ways`)).json()).toEqual({
      provider: 'Quay Studio',
      isKeyNeeded: true,
    })
  })

  it('that is away is said to be, and asked again the next time', async () => {
    const away = await makeServer({
      env: {
        HANDY_GRID_KEY: KEY,
        OIDC_ISSUER: 'http://127.0.0.1:9',
        OIDC_CLIENT_ID: 'x',
        OIDC_CLIENT_SECRET: 'y',
        OIDC_ROLES: '*=look',
        HANDY_GRID_ADDRESS: 'https://studio.example',
      },
    })
    try {
      for (let i = 0; i < 2; i++) expect((await fetch(`${away.url}/api/session/provider`)).status).toBe(503)
      expect((await fetch(`${away.url}/api/health`)).status).toBe(200)
    } finally {
      await away.dispose()
    }
  })

  it('has settings that make sense, or the server does not start', () => {
    const good = {
      HOST: '127.0.0.1',
      HANDY_GRID_KEY: KEY,
      OIDC_ISSUER: 'https://id.example',
      OIDC_CLIENT_ID: 'a',
      OIDC_CLIENT_SECRET: 'b',
      OIDC_ROLES: 'all=staff=work,*=look',
      HANDY_GRID_ADDRESS: 'https://grid.example',
    }
    expect(readDoorSettings(good).provider!.roles).toEqual(
      new Map([
        ['all=staff', 'work'],
        ['*', 'look'],
      ]),
    )
    for (const [change, says] of [
      [{ OIDC_CLIENT_SECRET: '' }, 'OIDC_CLIENT_SECRET'],
      [{ OIDC_ISSUER: 'http://id.example' }, 'https'],
      [{ HANDY_GRID_ADDRESS: 'grid.example' }, 'HANDY_GRID_ADDRESS'],
      [{ OIDC_ROLES: 'artists' }, 'group=role'],
      [{ OIDC_ROLES: 'artists=all' }, 'group=role'],
      [{ HANDY_GRID_KEY: '' }, 'HANDY_GRID_KEY'],
    ] as const)
      expect(() => readDoorSettings({ ...good, ...change }), says).toThrow(says)
  })
})
