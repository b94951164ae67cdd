import { request } from 'node:http'
import { describe, expect, it } from 'vitest'
import { freshId, useServer } from './support'

const server = useServer()
const { call, error } = server

describe('answers', () => {
  it('to unknown routes, methods and ids say so without telling about the inside', async () => {
    for (const [method, path, status] of [
      ['GET', '/api/nothing', 404],
      ['GET', '/api/levels/1', 404],
      ['GET', `/api/levels/${freshId()}`, 404],
      ['GET', `/api/parts/${freshId()}`, 404],
      ['GET', '/api/meshes/abc', 404],
      ['GET', `/api/levels/${freshId()}/export.glb`, 404],
      ['DELETE', '/api/kit', 404],
      ['DELETE', `/api/levels/${freshId()}`, 404],
      ['GET', '/api/levels/%00/picture', 404],
    ] as const) {
      const { status: actual, text } = await call(method, path)
      expect(actual, path).toBe(status)
      expect(text, path).not.toMatch(/at .*\.m?js|node_modules|stack|select |insert /i)
    }
  })

  it('to bad levels name the field', async () => {
    expect(await error('POST', '/api/levels', { name: '' })).toMatchObject({ status: 422, field: 'name' })
    expect(await error('POST', '/api/levels', { name: '<script>' })).toMatchObject({ status: 422, field: 'name' })
    expect(await error('POST', '/api/levels', { name: 'x', from: 'elsewhere' })).toMatchObject({
      status: 422,
      field: 'from',
    })
    expect(await error('POST', '/api/levels', { name: 'x', colour: 1 })).toMatchObject({ status: 422, field: 'colour' })
    expect(await error('POST', '/api/levels', { name: 'x', from: freshId() })).toMatchObject({ status: 404 })
    expect(await error('POST', '/api/levels', 'name=x')).toMatchObject({ status: 400, field: 'body' })
    const { id } = await server.newLevel()
    expect(await error('PATCH', `/api/levels/${id}`, {})).toMatchObject({ status: 422 })
    expect(await error('PATCH', `/api/levels/${id}`, { name: 'x'.repeat(201) })).toMatchObject({
      status: 422,
      field: 'name',
    })
  })

  it('to a body over the limit come at once, announced or not', async () => {
    const large = JSON.stringify({ name: 'x'.repeat(2 * 1024 * 1024) })
    expect(await error('POST', '/api/levels', large)).toMatchObject({ status: 413, code: 'too-large', field: 'body' })
    // Chunked: no length is announced, so the bytes themselves have to be counted.
    const status = await new Promise<number | undefined>(resolve => {
      const sending = request(
        `${server.get().url}/api/levels`,
        { method: 'POST', headers: { 'content-type': 'application/json' } },
        answer => resolve(answer.statusCode),
      )
      sending.on('error', () => {})
      sending.write(large)
      sending.end()
    })
    expect(status).toBe(413)
    expect((await call('GET', '/api/health')).status).toBe(200)
  })
})

describe('headers', () => {
  it('of the page forbid what it does not need', async () => {
    const { headers } = await call('GET', '/')
    const policy = headers.get('content-security-policy') ?? ''
    for (const part of [
      "default-src 'none'",
      "script-src 'self' 'nonce-",
      "frame-ancestors 'none'",
      "base-uri 'none'",
      "connect-src 'self'",
    ])
      expect(policy).toContain(part)
    // WebAssembly alone: the decoders of compressed meshes.
    expect(policy).not.toContain("'unsafe-eval'")
    expect(policy).toContain("'wasm-unsafe-eval'")
    expect(headers.get('x-content-type-options')).toBe('nosniff')
    expect(headers.get('x-powered-by')).toBeNull()
    expect(headers.get('referrer-policy')).toBe('no-referrer')
  })

  it('of the API keep browsers from guessing', async () => {
    expect((await call('GET', '/api/levels')).headers.get('x-content-type-options')).toBe('nosniff')
  })
})
