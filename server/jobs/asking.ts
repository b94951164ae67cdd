import { v7 } from 'uuid'
import type { Announcement } from '../services/live/announce'
import { liveCounts, onJobs, SERVER, tellJobs } from '../services/live/live'
import { ApiError } from '../utils/api-error'
import { log } from '../utils/log'
import type { Outcome } from './outcome'
import { valueOf } from './outcome'
import { termsOf } from './pool'
import type { Given, QueuedName, Result } from './queue'
import { outcomeIn, queue, queueOf, sendOrder } from './queue'

// The side of the queue that asks: it waits for what another process does, wherever that is.

/** Jobs that are waited for here at a time; further ones are refused. */
const MOST = 200
/** What is small, in things; and jobs of one person that come before those of others who have many. */
const [SMALL, FEW] = [20_000, 2]
/** Milliseconds between two looks at what nothing was heard of, and of silence after which whoever does it is lost. */
const [LOOK, SILENT] = [2000, 8000]

type Waiting = {
  queue: string
  settle: (outcome: Outcome<unknown>) => void
  isSent: boolean
  /** When it was last heard, or seen at first, that it is being done; null before. */
  heardAt: number | null
}
const waiting = new Map<string, Waiting>()
/** How many are waited for by whom. */
const going = new Map<string, number>()
let timer: NodeJS.Timeout | undefined

export type OrderTerms = {
  /** A person or an address. */
  who?: string
  /** Things that it is about: small jobs do not wait for large ones. */
  size?: number
  /** Tells that nobody waits any more; what changes nothing is ended then. */
  signal?: AbortSignal
  /** By which how far it is can be asked for. */
  ticket?: string
}

/**
 * Has a job done by any process of any machine, once; again by another if that is lost.
 *
 * @throws ApiError what the job refused; 503 if too many wait; 499 if nobody waits
 */
export async function inQueue<N extends QueuedName>(
  name: N,
  given: Given<N>,
  { who = '', size = 0, signal, ticket }: OrderTerms,
): Promise<Result<N>> {
  if (signal?.aborted) throw gone()
  if (waiting.size >= MOST)
    throw new ApiError(503, 'busy', 'The server has too much to do at the moment. Nothing was changed; try again.')
  const { lane, seconds, endsWhenLeft } = termsOf(name)
  const before = going.get(who) ?? 0
  const id = v7()
  const its = queueOf(lane, size > SMALL || before >= FEW)
  const outcome = new Promise<Outcome<unknown>>(settle =>
    waiting.set(id, { queue: its, settle, isSent: false, heardAt: null }),
  )
  going.set(who, before + 1)
  watch()
  const leave = () => {
    waiting.get(id)?.settle(refused(gone()))
    if (!endsWhenLeft) return
    tellJobs({ job: id, is: 'left' })
    dropOrder(its, id)
  }
  signal?.addEventListener('abort', leave, { once: true })
  try {
    await sendOrder({ id, queue: its, seconds }, { name, given, who, size, server: SERVER, ticket })
    waiting.get(id)!.isSent = true
    // Whoever left meanwhile could not take back what was not there yet.
    if (signal?.aborted) leave()
    tellJobs({ job: id, is: 'new' })
    return valueOf(await outcome) as Result<N>
  } finally {
    signal?.removeEventListener('abort', leave)
    waiting.delete(id)
    const left = going.get(who)! - 1
    if (left === 0) going.delete(who)
    else going.set(who, left)
  }
}

/** How many jobs are waited for here. */
export const waitedFor = () => waiting.size

/** What was done in this process. @returns whether somebody waits for it here */
export function settleHere(id: string, outcome: Outcome<unknown>): boolean {
  const found = waiting.get(id)
  found?.settle(outcome)
  return found !== undefined
}

const gone = () => new ApiError(499, 'gone', 'Nobody waited for it any more.')
const refused = ({ status, code, message, more }: ApiError): Outcome<never> => ({
  ok: false,
  refused: { status, code, message, more },
})

/** Hears of what is waited for, from now on. */
function watch(): void {
  if (timer) return
  onJobs(hear)
  timer = setInterval(() => {
    for (const [id, each] of waiting) if (each.isSent) void look(id, each)
  }, LOOK)
  timer.unref()
}

function hear({ job, is }: Extract<Announcement, { job: string }>): void {
  const found = waiting.get(job)
  if (!found) return
  if (is === 'going') found.heardAt = Date.now()
  else if (is === 'done') void look(job, found)
}

/** Whether it is done; what nobody does any more is given to another. */
async function look(id: string, found: Waiting): Promise<void> {
  try {
    const is = await outcomeIn(found.queue, id)
    if (is === 'waits') {
      found.heardAt = null
    } else if (is !== 'taken') {
      found.settle(is)
      dropOrder(found.queue, id)
    } else if (found.heardAt === null) {
      // Whoever took it may have been lost before the first word.
      found.heardAt = Date.now()
    } else if (liveCounts().hearing === 1 && Date.now() - found.heardAt > SILENT) {
      log.warn({ job: id }, 'a job was lost with its process, and is given to another')
      await (await queue()).fail(found.queue, id, { lost: true })
      tellJobs({ job: id, is: 'new' })
    }
  } catch (error) {
    // The next look is soon.
    log.warn({ err: error, job: id }, 'how far a job is could not be asked')
  }
}

/** It is not kept, whatever has become of it. */
function dropOrder(name: string, id: string): void {
  queue()
    .then(of => of.deleteJob(name, id))
    .catch((error: unknown) => log.warn({ err: error, job: id }, 'a job that is over is still in the queue'))
}
