import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { createPlacement } from '../../core/level/create'
import { demoId } from '../../demo/kit'
import type { TestServer } from '../server'
import { makeServer } from '../server'
import { glbOf } from '../trial/content'
import { change, freshId, lineOfCrates, put, useServer } from './support'

/** It leaves what is queued to the others, which have settings of their own. */
const server = useServer({ env: { HANDY_GRID_WORK: 'no' } })

async function withServer<T>(env: Record<string, string>, work: (other: TestServer) => Promise<T>): Promise<T> {
  const other = await makeServer({ database: server.get().databaseUrl, env })
  try {
    return await work(other)
  } finally {
    await other.dispose()
  }
}

/** Crates within each other, each with each: it takes a minute to look through them. */
async function dense(): Promise<string> {
  const { id } = await server.newLevel()
  const crates = Array.from({ length: 10_000 }, (_, i) =>
    createPlacement({
      id: freshId(),
      name: `Crate ${i}`,
      kind: 'part',
      partId: demoId('part/Crate'),
      translation: [i / 1e5, 0, 0],
    }),
  )
  await server.save(id, 0, change(...crates.map(({ id: crate, ...own }) => put(crate, own))))
  return id
}

/** A level that takes a while to be handed over. */
async function large(): Promise<string> {
  const { id } = await server.newLevel()
  await server.save(id, 0, lineOfCrates(1_000_000))
  return id
}

const answerOf = async (response: Response) => ({
  status: response.status,
  code: response.ok ? '' : ((await response.json()) as { error: { code: string } }).error.code,
})

describe('a job', () => {
  it('that takes more memory than it may is ended, and the next is done', async () => {
    const [{ id: small }, id] = [await server.newLevel(), await large()]
    await withServer({ HANDY_GRID_JOB_MEMORY: '220' }, async ({ url }) => {
      expect(await answerOf(await fetch(`${url}/api/levels/${id}/export.usda`))).toEqual({
        status: 422,
        code: 'too-heavy',
      })
      expect((await fetch(`${url}/api/levels/${small}/parts.csv`)).status).toBe(200)
    })
  })

  it('that takes longer than it may is ended, and others are answered meanwhile', async () => {
    const [{ id: small }, id] = [await server.newLevel(), await dense()]
    await withServer({ HANDY_GRID_JOB_SECONDS: '6' }, async ({ url }) => {
      let isOver = false
      const checked = fetch(`${url}/api/levels/${id}/check`)
        .then(answerOf)
        .finally(() => {
          isOver = true
        })
      const small_ = await fetch(`${url}/api/levels/${small}/check`)
      expect([small_.status, isOver]).toEqual([200, false])
      expect(await checked).toEqual({ status: 422, code: 'too-long' })
    })
  })

  it('is not brought down by a file that is nested too deeply to be gone through', async () => {
    const deep = glbOf(`{"asset":{"version":"2.0"},"extras":${'['.repeat(500_000)}${']'.repeat(500_000)}}`)
    const response = await fetch(`${server.get().url}/api/parts/check`, {
      method: 'POST',
      headers: { 'content-type': 'model/gltf-binary' },
      body: deep as BodyInit,
    })
    expect([response.status, await response.text()]).toEqual([
      200,
      expect.stringContaining('nested more than 200 deep'),
    ])
  })

  it('needs settings that make sense', async () => {
    await expect(withServer({ HANDY_GRID_JOB_MEMORY: 'much' }, () => Promise.resolve())).rejects.toThrow(
      'does not start',
    )
  })
})

it('folders of servers that were killed are swept when one starts; others are not', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'handy-grid-swept-'))
  const [dead, ours, other] = [
    join(folder, 'handy-grid-hand-over-999999999-abc'),
    join(folder, `handy-grid-hand-over-${process.pid}-abc`),
    join(folder, 'anything'),
  ]
  for (const each of [dead, ours, other]) {
    mkdirSync(each)
    writeFileSync(join(each, 'file'), 'x')
  }
  try {
    await withServer({ TMPDIR: folder }, async () => {
      for (let tries = 0; existsSync(dead) && tries < 100; tries++)
        await new Promise(resolve => setTimeout(resolve, 50))
      expect([dead, ours, other].map(each => existsSync(each))).toEqual([false, true, true])
    })
  } finally {
    rmSync(folder, { recursive: true })
  }
})
