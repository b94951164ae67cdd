import { once } from 'node:events'
import { request } from 'node:http'
import { connect } from 'node:net'
import { describe, expect, it } from 'vitest'
import { hostName, isOurHost, isOwnRequest, networkOf } from '../../server/auth/origin'
import { readDoorSettings } from '../../server/auth/settings'
import { makeServer } from '../server'
import { useServer } from './support'

const open = useServer()
const KEY = 'the writing key of the tests'.replaceAll(' ', '-')
const READING = 'the-reading-key-of-the-tests'
const locked = useServer({ env: { HANDY_GRID_KEY: KEY, HANDY_GRID_READING_KEY: READING } })

type Sent = { method?: string; path?: string; headers?: Record<string, string>; body?: string | Uint8Array }

/** A request as it is written here: `fetch` would not send some of these headers. */
function send(
  port: number,
  { method = 'GET', path = '/api/levels', headers = {}, body }: Sent,
): Promise<{ status: number; headers: Record<string, unknown>; text: string }> {
  return new Promise((resolve, reject) => {
    const sending = request({ host: '127.0.0.1', port, method, path, headers }, async answer => {
      let text = ''
      answer.setEncoding('utf8').on('data', (chunk: string) => (text += chunk))
      await once(answer, 'end')
      resolve({ status: answer.statusCode!, headers: answer.headers, text })
    })
    sending.on('error', reject)
    sending.end(body)
  })
}

const create = { method: 'POST', body: JSON.stringify({ name: 'Made by a foreign page' }) }
const json = { 'content-type': 'application/json' }

describe('who asks from where', () => {
  it('is told by the name asked for: addresses cannot be made to mean another machine, names can', () => {
    const names = new Set(['localhost', 'studio.example'])
    for (const host of ['127.0.0.1:4600', '[::1]:4600', '10.0.0.7', 'localhost', 'LocalHost:1', 'studio.example'])
      expect(isOurHost(host, names), host).toBe(true)
    for (const host of [
      'evil.example:4600',
      'localhost.evil.example',
      '127.0.0.1.evil.example',
      'studio.example.evil',
      '',
      undefined,
      'a b',
      '127.0.0.1@evil.example',
      'evil.example#127.0.0.1',
    ])
      expect(isOurHost(host, names), String(host)).toBe(false)
    expect(hostName('[FE80::1]:80')).toBe('fe80::1')
  })

  it("counts a customer's IPv6 addresses as one, however they are written (RFC 4291, 2.2; RFC 6177)", () => {
    for (const [address, network] of [
      ['203.0.113.7', '203.0.113.7'],
      ['::ffff:203.0.113.7', '203.0.113.7'],
      ['2001:db8:1:2:3:4:5:6', '2001:db8:1:2::/64'],
      ['2001:db8:1:2::9', '2001:db8:1:2::/64'],
      ['2001:DB8:0001:0002::', '2001:db8:1:2::/64'],
      ['2001:db8::1', '2001:db8:0:0::/64'],
      ['fe80::1%eth0', 'fe80:0:0:0::/64'],
      ['::1', '0:0:0:0::/64'],
      ['', ''],
    ] as const)
      expect([address, networkOf(address)]).toEqual([address, network])
  })

  it('is told by what a browser adds', () => {
    const host = '127.0.0.1:4600'
    expect(isOwnRequest({ host })).toBe(true)
    expect(isOwnRequest({ host, origin: 'http://127.0.0.1:4600', fetchSite: 'same-origin' })).toBe(true)
    expect(isOwnRequest({ host: 'studio.example', origin: 'https://studio.example', fetchSite: 'same-origin' })).toBe(
      true,
    )
    expect(isOwnRequest({ host, fetchSite: 'none' })).toBe(true)
    for (const origin of [
      'http://evil.example',
      'http://127.0.0.1:9999',
      'null',
      'http://localhost:4600',
      'http://127.0.0.1:4600.evil.example',
      'x',
    ])
      expect(isOwnRequest({ host, origin }), origin).toBe(false)
    for (const fetchSite of ['cross-site', 'same-site', 'anything'])
      expect(isOwnRequest({ host, fetchSite }), fetchSite).toBe(false)
  })

  it('decides what is answered', async () => {
    const { port } = open.get()
    const host = `127.0.0.1:${port}`
    const before = (await send(port, {})).text
    for (const [sent, status, field] of [
      [{ ...create, headers: json }, 201],
      [{ ...create, headers: { ...json, origin: `http://${host}` } }, 201],
      [{ ...create, headers: { ...json, origin: 'http://evil.example' } }, 403, 'origin'],
      [{ ...create, headers: { ...json, 'sec-fetch-site': 'cross-site' } }, 403, 'origin'],
      [{ ...create, headers: { ...json, 'sec-fetch-site': 'same-site' } }, 403, 'origin'],
      [{ headers: { 'sec-fetch-site': 'cross-site' } }, 403, 'origin'],
      [{ ...create, headers: { ...json, host: `evil.example:${port}` } }, 421, 'host'],
      [{ headers: { host: `evil.example:${port}` } }, 421, 'host'],
      [{ path: '/', headers: { host: `evil.example:${port}` } }, 421, 'host'],
      // What a form of a foreign page can send.
      [{ ...create, headers: { 'content-type': 'text/plain' } }, 415, 'content-type'],
      [{ ...create, headers: { 'content-type': 'application/x-www-form-urlencoded' } }, 415, 'content-type'],
      [{ ...create, headers: { 'content-type': 'multipart/form-data; boundary=x' } }, 415, 'content-type'],
      [create, 415, 'content-type'],
    ] as [Sent, number, string?][]) {
      const answer = await send(port, sent)
      expect(
        [answer.status, field && (JSON.parse(answer.text) as { error: { field: string } }).error.field],
        JSON.stringify(sent),
      ).toEqual([status, field])
      expect(answer.headers['access-control-allow-origin']).toBeUndefined()
      expect(answer.headers['cross-origin-resource-policy']).toBe('same-origin')
    }
    const names = (text: string) => (JSON.parse(text) as { levels: unknown[] }).levels.length
    expect(names((await send(port, {})).text)).toBe(names(before) + 2)
  })
})

describe('keys', () => {
  it('are needed beyond loopback, and make sense', () => {
    expect(() => readDoorSettings({ HOST: '0.0.0.0' })).toThrow('HANDY_GRID_KEY')
    expect(() => readDoorSettings({})).toThrow('HANDY_GRID_KEY')
    expect(() => readDoorSettings({ HOST: '127.0.0.1', HANDY_GRID_KEY: 'short' })).toThrow('12 characters')
    expect(() => readDoorSettings({ HOST: '127.0.0.1', HANDY_GRID_KEY: KEY, HANDY_GRID_READING_KEY: KEY })).toThrow(
      'differ',
    )
    expect(readDoorSettings({ HOST: '127.0.0.1' }).writingKey).toBeNull()
    expect([
      ...readDoorSettings({ HOST: '0.0.0.0', HANDY_GRID_KEY: KEY, ALLOWED_HOSTS: 'Studio.example, b' }).names,
    ]).toEqual(['localhost', '0.0.0.0', 'studio.example', 'b'])
  })

  it('let in whoever has them: nobody without, one to look, one to write', async () => {
    const { port } = locked.get()
    const bearer = (key: string) => ({ ...json, authorization: `Bearer ${key}` })
    expect((await send(port, {})).status).toBe(401)
    expect((await send(port, { ...create, headers: json })).status).toBe(401)
    expect((await send(port, { path: '/api/health' })).status).toBe(200)
    expect((await send(port, { path: '/' })).status).toBe(200)
    expect((await send(port, { headers: bearer(READING) })).status).toBe(200)
    expect((await send(port, { ...create, headers: bearer(READING) })).status).toBe(403)
    expect((await send(port, { ...create, headers: bearer(KEY) })).status).toBe(201)
  })

  it('open a session by a cookie no script can read, which is worth nothing when it is changed', async () => {
    const { port } = locked.get()
    const start = (key: string) =>
      send(port, { method: 'POST', path: '/api/session', headers: json, body: JSON.stringify({ key }) })
    const entered = await start(READING)
    expect(JSON.parse(entered.text)).toEqual({ role: 'look', person: null, largestFile: 64 * 1024 * 1024 })
    const [cookie] = entered.headers['set-cookie'] as string[]
    for (const part of ['HttpOnly', 'SameSite=Strict', 'Path=/']) expect(cookie).toContain(part)
    const value = cookie!.split(';')[0]!
    expect((await send(port, { headers: { cookie: value } })).status).toBe(200)
    expect((await send(port, { ...create, headers: { ...json, cookie: value } })).status).toBe(403)
    const at = value.length - 10
    expect(
      (
        await send(port, {
          headers: { cookie: value.slice(0, at) + (value[at] === 'a' ? 'b' : 'a') + value.slice(at + 1) },
        })
      ).status,
    ).toBe(401)
    const writing = (await start(KEY)).headers['set-cookie'] as string[]
    expect((await send(port, { ...create, headers: { ...json, cookie: writing[0]!.split(';')[0]! } })).status).toBe(201)
  })

  it('are asked for again after a session has ended: its cookie opens nothing, on no server', async () => {
    const { port, databaseUrl } = locked.get()
    const entered = await send(port, {
      method: 'POST',
      path: '/api/session',
      headers: json,
      body: JSON.stringify({ key: KEY }),
    })
    const cookie = (entered.headers['set-cookie'] as string[])[0]!.split(';')[0]!
    const other = await makeServer({
      database: databaseUrl,
      env: { HANDY_GRID_KEY: KEY, HANDY_GRID_READING_KEY: READING },
    })
    try {
      for (const each of [port, other.port]) expect((await send(each, { headers: { cookie } })).status).toBe(200)
      await send(port, { method: 'DELETE', path: '/api/session', headers: { ...json, cookie } })
      for (const each of [port, other.port]) {
        expect((await send(each, { headers: { cookie } })).status).toBe(401)
        expect((await send(each, { ...create, headers: { ...json, cookie } })).status).toBe(401)
      }
    } finally {
      await other.dispose()
    }
  })

  it('go with a cookie for HTTPS alone where the trusted proxy says so, the last of several words', async () => {
    const behind = await makeServer({
      database: locked.get().databaseUrl,
      env: { HANDY_GRID_KEY: KEY, TRUST_PROXY: '1' },
    })
    try {
      for (const [proto, isSecure] of [
        ['https', true],
        ['http', false],
        ['https, http', false],
        ['http, https', true],
      ] as const) {
        const entered = await send(behind.port, {
          method: 'POST',
          path: '/api/session',
          headers: { ...json, 'x-forwarded-proto': proto },
          body: JSON.stringify({ key: KEY }),
        })
        expect([proto, /; Secure/i.test((entered.headers['set-cookie'] as string[])[0]!)]).toEqual([proto, isSecure])
      }
    } finally {
      await behind.dispose()
    }
  })

  it('that are wrong are answered only so often; sessions go on', async () => {
    const { port } = locked.get()
    const entered = await send(port, {
      method: 'POST',
      path: '/api/session',
      headers: json,
      body: JSON.stringify({ key: KEY }),
    })
    const statuses: number[] = []
    for (let i = 0; i < 14; i++)
      statuses.push((await send(port, { headers: { authorization: `Bearer wrong-key-number-${i}` } })).status)
    expect(statuses.slice(0, 8)).toEqual(Array.from({ length: 8 }, () => 401))
    expect(statuses.at(-1)).toBe(429)
    // Others come from the same address: the right key opens, whatever was tried.
    expect((await send(port, { headers: { authorization: `Bearer ${KEY}` } })).status).toBe(200)
    expect(
      (await send(port, { headers: { cookie: (entered.headers['set-cookie'] as string[])[0]!.split(';')[0]! } }))
        .status,
    ).toBe(200)
  })
})

describe('answers', () => {
  it('to HEAD have the headers of GET and no body', async () => {
    const { port } = open.get()
    for (const path of ['/api/levels', '/api/health', '/api/kit', '/api/nothing']) {
      const [head, get] = [await send(port, { method: 'HEAD', path }), await send(port, { path })]
      expect([head.status, head.text, head.headers['content-type']], path).toEqual([
        get.status,
        '',
        get.headers['content-type'],
      ])
    }
  })

  it("are compressed for whoever takes that, and the page's files are kept for good by their hashes", async () => {
    const { port } = open.get()
    const { id } = await open.newLevel('demo')
    const path = `/api/levels/${id}`
    const plain = await send(port, { path })
    expect(plain.headers['content-encoding']).toBeUndefined()
    const zipped = await send(port, { path, headers: { 'accept-encoding': 'gzip, br' } })
    expect(zipped.headers['content-encoding']).toBe('gzip')
    expect(await (await fetch(`${open.get().url}${path}`)).json()).toEqual(JSON.parse(plain.text))
    const page = (await send(port, { path: '/' })).text
    const script = /\/_nuxt\/[\w-]+\.js/.exec(page)![0]
    const file = await send(port, { path: script, headers: { 'accept-encoding': 'br' } })
    expect(file.headers['content-encoding']).toBe('br')
    expect(file.headers['cache-control']).toMatch(/max-age=31536000.*immutable/)
  })

  it('to a body too large arrive, however it is sent', async () => {
    const { port } = open.get()
    const large = Buffer.alloc(6 * 1024 * 1024, 0x20)
    for (let i = 0; i < 15; i++) {
      const chunked = i % 2 === 0
      const answer = await send(port, {
        method: 'POST',
        headers: {
          ...json,
          ...(chunked ? { 'transfer-encoding': 'chunked' } : { 'content-length': String(large.length) }),
        },
        body: large,
      })
      expect([answer.status, (JSON.parse(answer.text) as { error: { field: string } }).error.field]).toEqual([
        413,
        'body',
      ])
    }
  })

  it('are not kept from others by headers that never end', async () => {
    const { port } = open.get()
    const slow = Array.from({ length: 100 }, () =>
      connect(port, '127.0.0.1', function (this: { write: (text: string) => void }) {
        this.write(
          'POST /api/levels HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-type: application/json\r\ncontent-length: 100\r\nx',
        )
      }),
    )
    for (const socket of slow) socket.on('error', () => {})
    expect((await send(port, {})).status).toBe(200)
    for (const socket of slow) socket.destroy()
  })
})
