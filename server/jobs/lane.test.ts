import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { JobTerms, Process } from './lane'
import { Lane } from './lane'

/** A process whose jobs end when they are told to. */
class Fake implements Process {
  isOver = false
  endedWith: Error | null = null
  private settle: { done: (value: unknown) => void; failed: (error: Error) => void } | null = null
  job: unknown = null

  run = ((_name: string, given: unknown) => {
    this.job = given
    return new Promise((done, failed) => {
      this.settle = { done: done as (value: unknown) => void, failed }
    })
  }) as Process['run']

  end(why: Error): void {
    this.isOver = true
    this.endedWith = why
    this.settle?.failed(why)
  }

  finish(): void {
    this.job = null
    this.settle!.done('done')
  }
}

const started: Fake[] = []
const lane = (most: number, waiting = 100) =>
  new Lane({ most, waiting, memory: 1, niceness: 0 }, () => {
    const process = new Fake()
    started.push(process)
    return process
  })
/** What is being done, and what came of what was. */
const ask = (of: Lane, job: string, terms: Partial<JobTerms> = {}) => {
  const asked = of.run('makeSteps', { hash: job }, { who: 'one', size: 1, deadline: 10_000, ...terms })
  asked.catch(() => {})
  return asked
}
const going = () => started.filter(({ job, isOver }) => job && !isOver).map(({ job }) => (job as { hash: string }).hash)
const finish = async (job: string) => {
  started.find(each => (each.job as { hash: string } | null)?.hash === job)!.finish()
  await vi.advanceTimersByTimeAsync(0)
}

beforeEach(() => {
  vi.useFakeTimers()
  started.length = 0
})
afterEach(() => {
  vi.useRealTimers()
})

describe('a lane of jobs', () => {
  it('leaves one process for others, however much one asks for', async () => {
    const three = lane(3)
    for (const job of ['a', 'b', 'c', 'd']) void ask(three, job)
    await vi.advanceTimersByTimeAsync(0)
    expect(going()).toEqual(['a', 'b'])
    void ask(three, 'other', { who: 'other' })
    await vi.advanceTimersByTimeAsync(0)
    expect(going()).toEqual(['a', 'b', 'other'])
    await finish('a')
    expect(going().toSorted()).toEqual(['b', 'c', 'other'])
  })

  it('takes who has fewest going, then what is small, then what came first; what has waited long is small enough', async () => {
    const one = lane(1)
    void ask(one, 'first')
    await vi.advanceTimersByTimeAsync(0)
    void ask(one, 'large', { size: 1e9 })
    void ask(one, 'small', { size: 10 })
    void ask(one, 'small too', { size: 11 })
    await finish('first')
    expect(going()).toEqual(['small'])
    await finish('small')
    expect(going()).toEqual(['small too'])
    await vi.advanceTimersByTimeAsync(16_000)
    // Past its deadline it was ended.
    void ask(one, 'late and small', { size: 1 })
    await vi.advanceTimersByTimeAsync(0)
    expect(going()).toEqual(['large'])
  })

  it('ends a job past its deadline, and does the next in another process', async () => {
    const one = lane(1)
    const asked = ask(one, 'endless', { deadline: 5000 })
    const next = ask(one, 'next')
    await vi.advanceTimersByTimeAsync(4999)
    expect(going()).toEqual(['endless'])
    await vi.advanceTimersByTimeAsync(1)
    await expect(asked).rejects.toMatchObject({ status: 422, code: 'too-long' })
    expect([started.length, going()]).toEqual([2, ['next']])
    await finish('next')
    await expect(next).resolves.toBe('done')
  })

  it('does not begin what nobody waits for, and ends what has begun a little later, unless it is done by then', async () => {
    const one = lane(1)
    const [first, second, third] = [new AbortController(), new AbortController(), new AbortController()]
    const begun = ask(one, 'begun', { signal: first.signal })
    const waiting = ask(one, 'waiting', { signal: second.signal })
    const quick = ask(one, 'quick', { signal: third.signal })
    second.abort()
    await expect(waiting).rejects.toMatchObject({ code: 'gone' })
    first.abort()
    await vi.advanceTimersByTimeAsync(1000)
    expect(going()).toEqual(['begun'])
    await vi.advanceTimersByTimeAsync(600)
    await expect(begun).rejects.toMatchObject({ code: 'gone' })
    expect(going()).toEqual(['quick'])
    third.abort()
    await finish('quick')
    await expect(quick).resolves.toBe('done')
    expect(started).toHaveLength(2)
  })

  it('refuses more than may wait, and uses a process again until it is idle', async () => {
    const one = lane(1, 1)
    void ask(one, 'a')
    await vi.advanceTimersByTimeAsync(0)
    void ask(one, 'b')
    await expect(ask(one, 'c')).rejects.toMatchObject({ status: 503, code: 'busy' })
    await finish('a')
    await finish('b')
    expect(started).toHaveLength(1)
    await vi.advanceTimersByTimeAsync(60_000)
    expect(started[0]!.isOver).toBe(true)
    one.end()
  })
})
