import { afterEach, describe, expect, it, vi } from 'vitest'
import type { ChangesAnswer, ChangesRequest } from '~~/core/api/schema'
import type { Change, JournalEntry } from '~~/core/level/schema'
import { testId } from '../../tests/support'
import { ApiFailure, ServerAway } from '../api/client'
import type { QueueContent, QueueWorld, SaveState } from './change-queue'
import { ChangeQueue } from './change-queue'

const change = (n: number): Change => ({ id: testId(n), label: `Change ${n}`, author: 'Test', operations: [{ do: 'remove', id: testId(n) }] })

/** A server that keeps a journal, and can be away or answer with somebody else's changes. */
function worldWith(send: (request: ChangesRequest) => ChangesAnswer | Promise<ChangesAnswer>) {
  const seen = { requests: [] as ChangesRequest[], states: [] as SaveState[], kept: [] as QueueContent[], gaveWay: [] as { others: JournalEntry[], lost: Change[], reason: string | null }[] }
  const world: QueueWorld = {
    send: async (request) => {
      seen.requests.push(structuredClone(request))
      return send(request)
    },
    keep: async content => void seen.kept.push(structuredClone(content)),
    onState: state => seen.states.push(state),
    giveWay: (others, lost, reason) => {
      seen.gaveWay.push({ others, lost, reason })
      return new Set(lost.map(({ id }) => id))
    },
  }
  return { world, seen }
}

const taken = ({ baseRevision, changes }: ChangesRequest): ChangesAnswer => ({
  revision: baseRevision + changes.length, applied: changes.map(({ id }, i) => ({ id, revision: baseRevision + i + 1 })), others: [],
})

afterEach(() => vi.useRealTimers())

describe('ChangeQueue', () => {
  it('sends in order, one request at a time, and says when all is saved', async () => {
    const { world, seen } = worldWith(taken)
    const queue = new ChangeQueue(world, { baseRevision: 4, changes: [] })
    for (const n of [1, 2, 3]) queue.add(change(n))
    await queue.settled()
    expect(seen.requests.flatMap(request => request.changes.map(({ id }) => id))).toEqual([1, 2, 3].map(testId))
    expect(seen.states.at(-1)).toEqual({ kind: 'saved', revision: 7 })
    expect(seen.kept.at(-1)).toEqual({ baseRevision: 7, changes: [] })
  })

  it('keeps every change on the device before anything is sent', async () => {
    const { world, seen } = worldWith(taken)
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [] })
    queue.add(change(1))
    expect(seen.kept[0]).toEqual({ baseRevision: 0, changes: [change(1)] })
    await queue.settled()
  })

  it('waits while the server is away, tries again by itself and loses nothing', async () => {
    vi.useFakeTimers()
    let away = true
    const { world, seen } = worldWith((request) => {
      if (away) throw new ServerAway('away')
      return taken(request)
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [] })
    queue.add(change(1))
    await vi.advanceTimersByTimeAsync(0)
    expect(seen.states.at(-1)).toEqual({ kind: 'away', waiting: 1 })
    queue.add(change(2))
    await vi.advanceTimersByTimeAsync(1500)
    away = false
    await vi.advanceTimersByTimeAsync(20_000)
    expect(seen.states.at(-1)).toEqual({ kind: 'saved', revision: 2 })
    expect(queue.isEmpty).toBe(true)
  })

  it('goes on with what an earlier visit left', async () => {
    const { world, seen } = worldWith(taken)
    const queue = new ChangeQueue(world, { baseRevision: 3, changes: [change(1), change(2)] })
    await queue.settled()
    expect(seen.requests[0]).toEqual({ baseRevision: 3, changes: [change(1), change(2)] })
  })

  it('gives way where others were first, and sends the rest on top of theirs', async () => {
    const others = [{ ...change(9), revision: 1 }]
    let first = true
    const { world, seen } = worldWith((request) => {
      if (!first) return taken(request)
      first = false
      throw new ApiFailure(409, 'conflict', 'met', 'changes', { revision: 1, yours: [testId(1)], others })
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [change(1), change(2)] })
    await queue.settled()
    expect(seen.gaveWay).toEqual([{ others, lost: [change(1)], reason: null }])
    expect(seen.requests.at(-1)).toEqual({ baseRevision: 1, changes: [change(2)] })
    expect(seen.states.at(-1)).toEqual({ kind: 'saved', revision: 2 })
  })

  it('drops only the change the server will never take', async () => {
    const { world, seen } = worldWith((request) => {
      const index = request.changes.findIndex(({ id }) => id === testId(2))
      if (index >= 0) throw new ApiFailure(422, 'missing', 'no such thing', `changes.${index}.operations.0.id`)
      return taken(request)
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [change(1), change(2), change(3)] })
    await queue.settled()
    expect(seen.gaveWay).toEqual([{ others: [], lost: [change(2)], reason: 'no such thing' }])
    expect(seen.requests.at(-1)!.changes.map(({ id }) => id)).toEqual([testId(1), testId(3)])
  })

  it('hands on what others did elsewhere in the level', async () => {
    const others = [{ ...change(9), revision: 1 }]
    const { world, seen } = worldWith(request => ({ ...taken(request), revision: 2, others }))
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [change(1)] })
    await queue.settled()
    expect(seen.gaveWay[0]!.others).toEqual(others)
    expect(queue.revision).toBe(2)
  })
})
