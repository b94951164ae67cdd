import { afterEach, describe, expect, it, vi } from 'vitest'
import type { ChangesAnswer, ChangesRequest, Journal } from '~~/core/api/schema'
import type { Change, JournalEntry } from '~~/core/level/schema'
import { testId } from '../../../tests/support'
import { ApiFailure, ServerAway } from '~/api/client'
import type { QueueContent, QueueWorld, Refusal, SaveState } from './change-queue'
import { ChangeQueue } from './change-queue'

const change = (n: number): Change => ({
  id: testId(n),
  label: `Change ${n}`,
  author: 'Test',
  operations: [{ do: 'remove', id: testId(n) }],
})

/** A server that keeps a journal, and can be away or answer with somebody else's changes. */
function worldWith(
  send: (request: ChangesRequest) => ChangesAnswer | Promise<ChangesAnswer>,
  read: (after: number) => Journal | Promise<Journal> = after => ({ revision: after, entries: [] }),
) {
  const seen = {
    requests: [] as ChangesRequest[],
    read: [] as number[],
    states: [] as SaveState[],
    kept: [] as QueueContent[],
    gaveWay: [] as { others: JournalEntry[]; lost: Change[]; refused: Refusal | null }[],
  }
  const world: QueueWorld = {
    send: async request => {
      seen.requests.push(structuredClone(request))
      return send(request)
    },
    read: async after => {
      seen.read.push(after)
      return read(after)
    },
    keep: async content => void seen.kept.push(structuredClone(content)),
    onState: state => seen.states.push(state),
    giveWay: (others, lost, refused) => {
      seen.gaveWay.push({ others, lost, refused })
      return new Set((refused ? [refused.change] : lost).map(({ id }) => id))
    },
  }
  return { world, seen }
}

const taken = ({ baseRevision, changes }: ChangesRequest): ChangesAnswer => ({
  revision: baseRevision + changes.length,
  applied: changes.map(({ id }, i) => ({ id, revision: baseRevision + i + 1 })),
  others: [],
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
    const { world, seen } = worldWith(request => {
      if (away) throw new ServerAway('away')
      return taken(request)
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [] })
    queue.add(change(1))
    await vi.advanceTimersByTimeAsync(0)
    expect(seen.states.at(-1)).toEqual({ kind: 'away', waiting: 1, isKept: true, reason: 'away' })
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
    const { world, seen } = worldWith(request => {
      if (!first) return taken(request)
      first = false
      throw new ApiFailure(409, 'conflict', 'met', 'changes', { revision: 1, yours: [testId(1)], applied: [], others })
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [change(1), change(2)] })
    await queue.settled()
    expect(seen.gaveWay).toEqual([{ others, lost: [change(1)], refused: null }])
    expect(seen.requests.at(-1)).toEqual({ baseRevision: 1, changes: [change(2)] })
    expect(seen.states.at(-1)).toEqual({ kind: 'saved', revision: 2 })
  })

  it('gives up nothing that was taken before, of which the answer was lost', async () => {
    const others = [{ ...change(9), revision: 2 }]
    const { world, seen } = worldWith(() => {
      const applied = [{ id: testId(1), revision: 1 }]
      throw new ApiFailure(409, 'conflict', 'met', 'changes', { revision: 2, yours: [testId(2)], applied, others })
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [change(1), change(2)] })
    await queue.settled()
    expect(seen.gaveWay).toEqual([{ others, lost: [change(2)], refused: null }])
    expect([queue.isEmpty, seen.requests]).toEqual([true, [{ baseRevision: 0, changes: [change(1), change(2)] }]])
  })

  it('drops only the change the server will never take', async () => {
    const { world, seen } = worldWith(request => {
      const index = request.changes.findIndex(({ id }) => id === testId(2))
      if (index >= 0) throw new ApiFailure(422, 'missing', 'no such thing', `changes.${index}.operations.0.id`)
      return taken(request)
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [change(1), change(2), change(3)] })
    await queue.settled()
    expect(seen.gaveWay).toEqual([{ others: [], lost: [], refused: { change: change(2), reason: 'no such thing' } }])
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

  it('finds the one the server fails on, tries it three times, and lets all others through', async () => {
    vi.useFakeTimers()
    const { world, seen } = worldWith(request => {
      if (request.changes.some(({ id }) => id === testId(3)))
        throw new ApiFailure(500, 'failed', 'Something went wrong on the server.')
      return taken(request)
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [1, 2, 3, 4, 5].map(change) })
    queue.flush()
    await vi.advanceTimersByTimeAsync(60_000)
    expect(seen.gaveWay.map(({ refused }) => refused?.change.id)).toEqual([testId(3)])
    expect(seen.requests.filter(({ changes }) => changes.length === 1 && changes[0]!.id === testId(3))).toHaveLength(3)
    expect(seen.states.at(-1)).toEqual({ kind: 'saved', revision: 4 })
  })

  it('sends no more bytes at once than are taken, and sets apart what is too large by itself', async () => {
    const large = (n: number, megabytes: number): Change => ({
      ...change(n),
      operations: Array.from({ length: megabytes * 4 }, (_, i) => ({
        do: 'put',
        id: testId(i),
        fields: { name: 'x'.repeat(250_000) },
      })),
    })
    const { world, seen } = worldWith(request => {
      const bytes = JSON.stringify(request).length
      if (bytes > 64 * 1024 * 1024) throw new ApiFailure(413, 'too-large', 'too large', 'body')
      return taken(request)
    })
    const queue = new ChangeQueue(world, {
      baseRevision: 0,
      changes: [large(1, 3), large(2, 3), large(3, 70), change(4)],
    })
    await queue.settled()
    expect(seen.requests.map(({ changes }) => changes.map(({ id }) => id))).toEqual([
      [testId(1)],
      [testId(2)],
      [testId(4)],
    ])
    expect(seen.gaveWay.map(({ refused }) => refused?.change.id)).toEqual([testId(3)])
    expect(queue.isEmpty).toBe(true)
  })

  it('does not blame the first change for what is wrong with the request as a whole', async () => {
    const { world, seen } = worldWith(request => {
      if (request.changes.some(({ id }) => id === testId(2)))
        throw new ApiFailure(422, 'in-use', 'still needed', 'changes')
      return taken(request)
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [1, 2, 3].map(change) })
    await queue.settled()
    expect(seen.gaveWay.map(({ refused }) => refused?.change.id)).toEqual([testId(2)])
    expect(seen.requests.slice(1).map(({ changes }) => changes.map(({ id }) => id))).toEqual([
      [testId(1)],
      [testId(2)],
      [testId(3)],
    ])
  })

  it('tells and keeps nothing any more once it is closed, whatever is answered later', async () => {
    let answer = () => {}
    const others = [{ ...change(9), revision: 1 }]
    const { world, seen } = worldWith(
      request =>
        new Promise(resolve => {
          answer = () => resolve({ ...taken(request), revision: 2, others })
        }),
    )
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [change(1)] })
    const settled = queue.settled()
    await Promise.resolve()
    const before = [seen.states.length, seen.kept.length]
    queue.close()
    answer()
    await settled
    expect(seen.gaveWay).toEqual([])
    expect([seen.states.length, seen.kept.length]).toEqual(before)
  })

  it('goes on sending where the device keeps nothing, and says so only while something waits', async () => {
    let away = true
    const { world, seen } = worldWith(request => {
      if (away) throw new ServerAway('away')
      return taken(request)
    })
    world.keep = () => Promise.reject(new Error('no room'))
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [] })
    queue.add(change(1))
    await queue.settled()
    expect(seen.states.at(-1)).toEqual({ kind: 'away', waiting: 1, isKept: false, reason: 'away' })
    away = false
    await queue.settled()
    expect(seen.states.at(-1)).toEqual({ kind: 'saved', revision: 1 })
  })

  it('waits with a key that has run out, without giving anything up', async () => {
    const { world, seen } = worldWith(() => {
      throw new ApiFailure(401, 'key-needed', 'A key is needed here.')
    })
    const queue = new ChangeQueue(world, { baseRevision: 0, changes: [change(1)] })
    await queue.settled()
    expect(seen.gaveWay).toEqual([])
    expect(seen.states.at(-1)).toMatchObject({ kind: 'away', waiting: 1 })
    queue.close()
  })

  const entries = (after: number, to: number): JournalEntry[] =>
    Array.from({ length: to - after }, (_, i) => ({ ...change(100 + after + i), revision: after + i + 1 }))

  it('reads what it hears of, in as many pieces as it comes in, and once', async () => {
    const { world, seen } = worldWith(taken, after => ({
      revision: 9,
      entries: entries(after, Math.min(after + 2, 9)),
    }))
    const queue = new ChangeQueue(world, { baseRevision: 4, changes: [] })
    queue.hear(9)
    queue.hear(7)
    await queue.settled()
    expect([seen.read, queue.revision]).toEqual([[4, 6, 8], 9])
    expect(seen.gaveWay.flatMap(({ others }) => others.map(({ revision }) => revision))).toEqual([5, 6, 7, 8, 9])
    queue.hear(9)
    await queue.settled()
    expect(seen.read).toHaveLength(3)
    expect(seen.kept.at(-1)).toEqual({ baseRevision: 9, changes: [] })
  })

  it('does not read beside what it sends: the answer brings it', async () => {
    const { world, seen } = worldWith(request => ({
      ...taken(request),
      revision: 6,
      others: entries(4, 5),
    }))
    const queue = new ChangeQueue(world, { baseRevision: 4, changes: [] })
    queue.add(change(1))
    queue.hear(6)
    await queue.settled()
    expect([seen.read, seen.requests.length, queue.revision]).toEqual([[], 1, 6])
  })

  it('sends what is made while it reads after that, on what it has read', async () => {
    let answer = (_journal: Journal) => {}
    const { world, seen } = worldWith(taken, () => new Promise(resolve => (answer = resolve)))
    const queue = new ChangeQueue(world, { baseRevision: 4, changes: [] })
    queue.hear(5)
    queue.add(change(1))
    answer({ revision: 5, entries: entries(4, 5) })
    await queue.settled()
    expect(seen.requests.map(({ baseRevision }) => baseRevision)).toEqual([5])
    expect(queue.revision).toBe(6)
  })

  it('reads again later while the server is away, and not for ever where there is nothing', async () => {
    vi.useFakeTimers()
    let tries = 0
    const { world, seen } = worldWith(taken, after => {
      if (tries++ === 0) throw new ServerAway('away')
      return { revision: after, entries: [] }
    })
    const queue = new ChangeQueue(world, { baseRevision: 4, changes: [] })
    queue.hear(5)
    await vi.advanceTimersByTimeAsync(60_000)
    expect([seen.read, seen.states.every(({ kind }) => kind === 'saved')]).toEqual([[4, 4], true])
    const { world: gone, seen: asked } = worldWith(taken, () => {
      throw new ApiFailure(404, 'not-found', 'There is no such level.')
    })
    const other = new ChangeQueue(gone, { baseRevision: 4, changes: [] })
    other.hear(5)
    await vi.advanceTimersByTimeAsync(60_000)
    expect(asked.read).toEqual([4])
  })
})
