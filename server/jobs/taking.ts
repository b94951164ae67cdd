import { database } from '../services/database'
import { makeFolder, removeFolder } from '../services/folders'
import type { Announcement } from '../services/live/announce'
import { onJobs, SERVER, tellJobs } from '../services/live/live'
import { startProgress } from '../services/live/tell-progress'
import { keepMadeFile } from '../services/made-files'
import { log } from '../utils/log'
import { settleHere } from './asking'
import type { JobTerms } from './lane'
import type { Outcome } from './outcome'
import { outcomeOf } from './outcome'
import type { LaneName } from './pool'
import { inWorker, loadOf } from './pool'
import type { Given, Order, QueuedName, Result } from './queue'
import { endQueue, QUEUED, QUEUED_LANES, orderSchema, queue, queueOf } from './queue'

// The side of the queue that does: it takes what waits, as long as a process of its lane has nothing to do.

/** By which a lane refuses what it was given, or ends it, because this process stops. */
const STOPPING = 'stopping'
/** Milliseconds between two looks at what waits, of which nothing was heard; and between two words of what is done. */
const [LOOK, BEAT] = [10_000, 1000]

type Doing = { lane: LaneName; left: AbortController }
const doing = new Map<string, Doing>()
let isTaking = false
let timer: NodeJS.Timeout | undefined

type Terms = Pick<JobTerms, 'who' | 'size' | 'signal' | 'onProgress'>
type Do<N extends QueuedName> = (
  given: Given<N>,
  terms: Terms,
  order: { id: string; server: string },
) => Promise<Result<N>>

const DO: { [N in QueuedName]: Do<N> } = {
  checkLevel: (given, terms) => inWorker('checkLevel', given, terms),
  remakePart: (given, terms) => inWorker('remakePart', given, terms),
  async handOver(given, terms, { id, server }) {
    const folder = await makeFolder()
    let isKept = false
    try {
      const { paths, report } = await inWorker('handOver', { ...given, folder }, terms)
      isKept = server === SERVER
      if (isKept) return { report, from: { folder, paths } }
      await keepMadeFile(await database(), id, paths)
      return { report, from: { job: id } }
    } finally {
      if (!isKept) await removeFolder(folder)
    }
  },
}

/** How many jobs of the queue are being done here, for whomever. */
export const beingDone = () => doing.size

/** Takes jobs from the queue from now on. */
export function startTaking(): void {
  isTaking = true
  onJobs(hear)
  timer = setInterval(() => void look(), LOOK)
  void look()
}

/** Takes no further job. @returns when those are done that are being done */
export async function stopTaking(): Promise<void> {
  isTaking = false
  clearInterval(timer)
  while (doing.size > 0) await new Promise(next => setTimeout(next, 100))
  await endQueue()
}

function hear({ job, is }: Extract<Announcement, { job: string }>): void {
  if (is === 'new') void look()
  else if (is === 'left') doing.get(job)?.left.abort()
}

let isLooking = false
let looksAgain = false

/** Takes what waits, as long as there is room. */
async function look(): Promise<void> {
  looksAgain = true
  if (isLooking) return
  isLooking = true
  try {
    while (looksAgain && isTaking) {
      looksAgain = false
      for (const lane of QUEUED_LANES) while (isTaking && (await takeOne(lane))) looksAgain = true
    }
  } catch (error) {
    // The next look is soon.
    log.warn({ err: error }, 'no job could be taken')
  } finally {
    isLooking = false
  }
}

let isMoreNext = false

/** Nobody has all processes: one takes only what is small, of people who have little going. */
async function takeOne(lane: LaneName): Promise<boolean> {
  const { most, busy } = loadOf(lane)
  const room = most - Math.max(busy, [...doing.values()].filter(each => each.lane === lane).length)
  if (room <= 0) return false
  isMoreNext = !isMoreNext
  for (const isMore of room > 1 ? [isMoreNext, !isMoreNext] : [false]) {
    const name = queueOf(lane, isMore)
    const [job] = await (await queue()).fetch(name)
    if (!job) continue
    void carryOut(name, lane, job).catch((error: unknown) =>
      log.error({ err: error, job: job.id }, 'what came of a job could not be told'),
    )
    return true
  }
  return false
}

async function carryOut(name: string, lane: LaneName, { id, data }: { id: string; data: unknown }): Promise<void> {
  const left = new AbortController()
  doing.set(id, { lane, left })
  const say = () => tellJobs({ job: id, is: 'going' })
  say()
  const beat = setInterval(say, BEAT)
  try {
    const order = orderSchema.safeParse(data)
    if (order.success) await tell(name, id, order.data, await outcomeOf(carry(id, order.data, left.signal)))
    else {
      log.error({ err: order.error, job: id }, 'something else lies in the queue')
      await (await queue()).cancel(name, id)
    }
  } finally {
    clearInterval(beat)
    doing.delete(id)
    void look()
  }
}

async function carry(id: string, order: Order, signal: AbortSignal): Promise<Result<QueuedName>> {
  const { name, who, size, server, ticket } = order
  const run = DO[name] as Do<QueuedName>
  const { onProgress } = startProgress(ticket)
  return run(QUEUED[name].parse(order.given), { who, size, signal, onProgress }, { id, server })
}

/** Tells what came of it to who asked, here or elsewhere. */
async function tell(name: string, id: string, { server }: Order, outcome: Outcome<Result<QueuedName>>): Promise<void> {
  const of = await queue()
  if (!outcome.ok && 'refused' in outcome && outcome.refused.code === STOPPING) {
    await of.fail(name, id, { stopping: true })
    tellJobs({ job: id, is: 'new' })
  } else if (server === SERVER) {
    const isTaken = settleHere(id, outcome)
    if (!isTaken && outcome.ok && 'from' in outcome.value && 'folder' in outcome.value.from)
      await removeFolder(outcome.value.from.folder)
    await of.deleteJob(name, id)
  } else {
    await of.complete(name, id, outcome)
    tellJobs({ job: id, is: 'done' })
  }
}
