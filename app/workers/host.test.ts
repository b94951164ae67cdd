import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { WorkerHere } from '../../tests/page'
import { Latest } from '~/editor/latest'
import { WorkerHost, WorkerTooLong } from './host'

/** Counts how many there were. */
class Counted extends WorkerHere {
  static started = 0
  static ended = 0

  constructor(does: object) {
    super(does)
    Counted.started++
  }

  override terminate(): void {
    super.terminate()
    Counted.ended++
  }
}

const never = () => new Promise<number>(() => {})
const does = {
  double: (value: number) => value * 2,
  fail: () => {
    throw new RangeError('not that')
  },
  never,
  tell: async (onNews: (value: number) => void) => {
    onNews(1)
    return never()
  },
}
const hosted = (seconds = 5) => new WorkerHost<typeof does>(() => new Counted(does) as unknown as Worker, seconds)

describe('a worker of the page', () => {
  beforeEach(() => {
    Counted.started = Counted.ended = 0
    vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval'] })
  })
  afterEach(() => vi.useRealTimers())

  it('starts when it is first asked, answers, and says what failed in it', async () => {
    const host = hosted()
    host.tell(remote => remote.double(1))
    expect([host.isRunning, Counted.started]).toEqual([false, 0])
    expect(await host.ask(remote => remote.double(4))).toBe(8)
    await expect(host.ask(remote => remote.fail())).rejects.toThrow('not that')
    await expect(
      host.ask(() => {
        throw new RangeError('not sent at all')
      }),
    ).rejects.toThrow('not sent at all')
    expect([host.isRunning, Counted.started]).toEqual([true, 1])
    vi.advanceTimersByTime(60_000)
    expect(host.isRunning).toBe(true)
    host.end()
  })

  it('leaves nobody waiting when it is ended, and starts anew when it is asked again', async () => {
    const host = hosted()
    const asked = [host.ask(remote => remote.never()), host.ask(remote => remote.never())]
    host.end()
    expect(await Promise.all(asked)).toEqual([null, null])
    expect([host.isRunning, Counted.ended]).toEqual([false, 1])
    expect(await host.ask(remote => remote.double(2))).toBe(4)
    expect(Counted.started).toBe(2)
    host.end()
  })

  it('is ended when nothing is heard of it for too long, but not while it tells something', async () => {
    const host = hosted(5)
    const heard: number[] = []
    const failed = host
      .ask((remote, hears) => remote.tell(hears((value: number) => heard.push(value))))
      .catch((error: unknown) => error)
    const other = host.ask(remote => remote.never())
    vi.advanceTimersByTime(4000)
    while (heard.length === 0) await new Promise(resolve => setTimeout(resolve))
    expect(heard).toEqual([1])
    vi.advanceTimersByTime(4000)
    expect(host.isRunning).toBe(true)
    vi.advanceTimersByTime(1000)
    expect([host.isRunning, Counted.ended]).toEqual([false, 1])
    expect([await failed, await other.catch((error: unknown) => error)]).toEqual([
      new WorkerTooLong(),
      new WorkerTooLong(),
    ])
    // With nothing asked it may be silent for as long as it likes.
    expect(await host.ask(remote => remote.double(3))).toBe(6)
    vi.advanceTimersByTime(60_000)
    expect(host.isRunning).toBe(true)
    host.end()
  })
})

describe('the newest of several', () => {
  it('is the last that was asked for, until all are called off', () => {
    const asked = new Latest()
    const [first, second] = [asked.next(), asked.next()]
    expect([first(), second()]).toEqual([false, true])
    asked.callOff()
    expect(second()).toBe(false)
  })
})
