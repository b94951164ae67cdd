import { once } from 'node:events'
import { sql } from 'drizzle-orm'
import { describe, expect, it } from 'vitest'
import { WebSocket } from 'ws'
import { LIVE_PATH } from '../../core/api/live'
import { freshId, useServer } from './support'

const api = useServer()

/** Samples by name and labels, read by the grammar of the text format (Prometheus, exposition format 0.0.4). */
async function samples(): Promise<Map<string, number>> {
  const response = await fetch(`${api.get().url}/api/metrics`)
  expect(response.headers.get('content-type')).toMatch(/^text\/plain; version=0\.0\.4/)
  const found = new Map<string, number>()
  for (const line of (await response.text()).split('\n')) {
    if (line === '' || /^# (HELP|TYPE) [a-z_:][a-z0-9_:]* \S/i.test(line)) continue
    const [, sample, value] =
      /^([a-z_:][a-z0-9_:]*(?:\{(?:[a-z_]\w*="(?:[^"\\]|\\.)*",?)+\})?) (NaN|[+-]Inf|[-\d.e+]+)$/i.exec(line) ?? []
    expect(sample, line).toBeDefined()
    found.set(sample!, Number(value))
  }
  return found
}

describe('what there is to watch', () => {
  it('counts requests by route and status, and who listens', async () => {
    const level = await api.newLevel()
    const count = (route: string, status: number) =>
      `handy_grid_request_seconds_count{route="${route}",status="${status}"}`
    const before = await samples()
    for (let i = 0; i < 5; i++) await api.call('GET', `/api/levels/${level.id}`)
    for (let i = 0; i < 3; i++) await api.call('GET', `/api/levels/${freshId()}`)
    const socket = new WebSocket(api.get().url.replace('http', 'ws') + LIVE_PATH.replace(':id', level.id))
    await once(socket, 'open')
    const after = await samples()
    const grown = (name: string) => (after.get(name) ?? 0) - (before.get(name) ?? 0)
    expect([grown(count('getLevel', 200)), grown(count('getLevel', 404))]).toEqual([5, 3])
    expect(after.get('handy_grid_live{of="listening"}')).toBe(1)
    expect(after.get('handy_grid_live{of="hearing"}')).toBe(1)
    expect(after.get('handy_grid_pool_connections{state="all"}')).toBeGreaterThan(0)
    expect(after.get('handy_grid_jobs_waiting{lane="making"}')).toBe(0)
    expect(after.get('handy_grid_process_resident_memory_bytes')).toBeGreaterThan(1e7)
    socket.close()
    await expect.poll(async () => (await samples()).get('handy_grid_live{of="listening"}')).toBe(0)
  })
})

describe('readiness', () => {
  it('is said apart from health: not while what other servers do is not heard', async () => {
    expect((await api.call('GET', '/api/ready')).json).toEqual({ status: 'ready' })
    const status = async () => (await api.call('GET', '/api/ready')).status
    // The connection that listens is cut, and comes back by itself.
    await api
      .get()
      .db.execute(
        sql`select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()`,
      )
    await expect.poll(status, { interval: 20 }).toBe(503)
    await expect.poll(status, { timeout: 5000 }).toBe(200)
    expect((await api.call('GET', '/api/health')).status).toBe(200)
  })
})
