import type { ChildProcess } from 'node:child_process'
import { spawn, spawnSync } from 'node:child_process'
import { once } from 'node:events'
import { appendFileSync, chownSync, mkdtempSync, rmSync } from 'node:fs'
import { connect, createServer } from 'node:net'
import type { AddressInfo, Server, Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import pg from 'pg'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findPrograms, unprivilegedUser } from '../../scripts/lib/postgres.mjs'
import type { TestServer } from '../server'
import { makeServer } from '../server'
import { check, hearing, newLevel, saveUntil, waitFor } from './saving'

// A pair of databases in synchronous streaming replication (manual of PostgreSQL 15, 27.2) behind one address.

const SETTINGS = `
wal_level = replica
max_wal_senders = 5
listen_addresses = '127.0.0.1'
unix_socket_directories = ''
`
const [FIRST, SECOND] = ['first', 'second'] as const

describe('a pair of databases', () => {
  const folder = mkdtempSync(join(tmpdir(), 'handy-grid-pair-'))
  const owner = unprivilegedUser()
  const as = { ...(owner ?? {}), cwd: '/' }
  const running: ChildProcess[] = []
  const open = new Set<Socket>()
  const ports: Record<string, number> = {}
  let bin: string
  let target = FIRST as string
  let front: Server
  let server: TestServer

  const run = (program: string, ...given: string[]) => {
    const { status, stderr } = spawnSync(join(bin, program), given, { ...as, encoding: 'utf8' })
    if (status !== 0) throw new Error(`${program}: ${stderr}`)
  }
  const urlOf = (port: number, name = 'postgres') => `postgres://grid@127.0.0.1:${port}/${name}`
  const ask = async (which: string, text: string) => {
    const client = new pg.Client({ connectionString: urlOf(ports[which]!) })
    await client.connect()
    try {
      return (await client.query<Record<string, string>>(text)).rows
    } finally {
      await client.end()
    }
  }
  const start = async (which: string) => {
    const free = createServer().listen(0, '127.0.0.1')
    await once(free, 'listening')
    ports[which] = (free.address() as AddressInfo).port
    free.close()
    running.push(
      spawn(join(bin, 'postgres'), ['-D', join(folder, which), '-p', String(ports[which])], { ...as, stdio: 'ignore' }),
    )
    await waitFor(async () => (await ask(which, 'select 1')).length === 1)
  }

  beforeAll(async () => {
    if (owner) chownSync(folder, owner.uid, owner.gid)
    bin = await findPrograms()
    run('initdb', '-D', join(folder, FIRST), '-U', 'grid', '--auth=trust', '--encoding=UTF8', '--locale=C')
    appendFileSync(join(folder, FIRST, 'postgresql.conf'), SETTINGS)
    await start(FIRST)
    await ask(FIRST, 'create database pair')
    const from = ['-h', '127.0.0.1', '-p', String(ports[FIRST]), '-U', 'grid']
    run('pg_basebackup', ...from, '-D', join(folder, SECOND), '-R', '-X', 'stream', '-c', 'fast')
    await start(SECOND)
    await ask(FIRST, "alter system set synchronous_standby_names = '*'")
    await ask(FIRST, 'select pg_reload_conf()')
    await waitFor(
      async () => (await ask(FIRST, 'select sync_state from pg_stat_replication'))[0]?.sync_state === 'sync',
    )
    front = createServer(socket => {
      const other = connect(ports[target]!, '127.0.0.1')
      for (const [one, two] of [
        [socket, other],
        [other, socket],
      ] as const) {
        open.add(one)
        one.on('error', () => two.destroy())
        one.on('close', () => {
          two.destroy()
          open.delete(one)
        })
        one.pipe(two)
      }
    }).listen(0, '127.0.0.1')
    await once(front, 'listening')
    server = await makeServer({ database: urlOf((front.address() as AddressInfo).port, 'pair') })
  }, 120_000)
  afterAll(async () => {
    await server?.dispose()
    front?.close()
    for (const each of running)
      if (each.exitCode === null && each.signalCode === null) {
        const gone = once(each, 'exit')
        each.kill('SIGQUIT')
        await gone
      }
    rmSync(folder, { recursive: true, force: true })
  })

  it('loses nothing that was acknowledged when the first is killed and the second takes over, and pages hear on', async () => {
    const level = await newLevel(server)
    const page = hearing(server, level)
    let isOver = false
    const writers = Promise.all(
      [1, 2, 3, 4].map(() =>
        saveUntil(
          () => server,
          level,
          () => isOver,
        ),
      ),
    )
    await sleep(2000)
    const before = page.revision()
    expect(before).toBeGreaterThan(4)
    running[0]!.kill('SIGKILL')
    await sleep(1000)
    run('pg_ctl', 'promote', '-w', '-D', join(folder, SECOND))
    target = SECOND
    for (const socket of open) socket.destroy()
    await waitFor(async () => (await fetch(`${server.url}/api/ready`)).ok && page.revision() > before + 4)
    await sleep(1000)
    isOver = true
    const acknowledged = (await writers).flat()
    await check(server, level, acknowledged)
    await waitFor(() => Promise.resolve(page.revision() >= acknowledged.length))
    await page.end()
  }, 120_000)
})
