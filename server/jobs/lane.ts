import type { Progress } from '../../core/api/schema'
import { ApiError } from '../utils/api-error'
import type { JobProcess, ProcessBounds } from './job-process'
import type { JobArguments, JobName, JobResult } from './jobs'

export type LaneBounds = ProcessBounds & {
  /** Jobs that are done at a time. */
  most: number
  /** Jobs that wait at a time; further ones are refused. */
  waiting: number
}

/** Who asks for a job, and how it is done for them. */
export type JobTerms = {
  /** A person or an address. */
  who: string
  /** Anything that grows with the work, such as bytes; small jobs come first. */
  size: number
  /** Milliseconds from its beginning after which it is ended. */
  deadline: number
  /** Ends the waiting, and a little later the job. */
  signal?: AbortSignal
  onProgress?: (progress: Progress) => void
}

/**
 * Milliseconds that a job goes on for which nobody waits any more. Ending it costs a process, which is more than most
 * of them take.
 */
const GRACE = 1500
/** Milliseconds after which a process without work is ended. */
const IDLE = 60_000
/** Milliseconds after which a large job comes before small ones that came later. */
const PATIENCE = 15_000
/** What is small: a quarter of the work of what is next larger. */
const classOf = (size: number) => Math.floor(Math.log2(Math.max(size, 1)) / 2)

/** What a lane needs of a process. */
export type Process = Pick<JobProcess, 'run' | 'end' | 'isOver'>

type Waiting = { terms: JobTerms; since: number; start: (process: Process) => void }

/**
 * Jobs of one sort, a few at a time, each in a process. Nobody has all processes: one is always left for others. Of
 * what waits, who has fewest going comes first, then what is small, then what came first.
 */
export class Lane {
  private readonly idle: { process: Process; timer: NodeJS.Timeout }[] = []
  private readonly running = new Map<Process, string>()
  private waiting: Waiting[] = []

  /** @param begin starts a process */
  constructor(
    private readonly bounds: LaneBounds,
    private readonly begin: () => Process,
  ) {}

  /** Jobs that are done right now, and that wait. */
  get counts(): { running: number; waiting: number } {
    return { running: this.running.size, waiting: this.waiting.length }
  }

  /**
   * @throws ApiError 503 if too many wait; 422 past its deadline, or for want of memory; 499 if nobody waits; what the
   *   job throws
   */
  async run<N extends JobName>(name: N, given: JobArguments<N>, terms: JobTerms): Promise<JobResult<N>> {
    const { deadline, signal, onProgress, who } = terms
    const process = await this.turn(terms)
    const timer = setTimeout(
      () =>
        process.end(
          new ApiError(
            422,
            'too-long',
            `This takes longer than the ${Math.round(deadline / 1000)} seconds that a job may take. Nothing was changed.`,
            { field: 'body' },
          ),
        ),
      deadline,
    )
    let grace: NodeJS.Timeout | undefined
    const leave = () => {
      grace = setTimeout(() => process.end(gone()), GRACE)
    }
    signal?.addEventListener('abort', leave, { once: true })
    this.running.set(process, who)
    try {
      return await process.run(name, given, onProgress)
    } finally {
      clearTimeout(timer)
      clearTimeout(grace)
      signal?.removeEventListener('abort', leave)
      this.running.delete(process)
      this.free(process)
      this.next()
    }
  }

  /** Ends all processes, when the server stops. */
  end(): void {
    const ended = new ApiError(503, 'stopping', 'The server stops.')
    for (const { process, timer } of this.idle.splice(0)) {
      clearTimeout(timer)
      process.end(ended)
    }
    for (const process of this.running.keys()) process.end(ended)
  }

  /** A process, when it is one's turn. */
  private turn(terms: JobTerms): Promise<Process> {
    if (terms.signal?.aborted) throw gone()
    if (this.waiting.length >= this.bounds.waiting)
      throw new ApiError(503, 'busy', 'The server has too much to do at the moment. Nothing was changed; try again.')
    return new Promise((resolve, reject) => {
      const waiting: Waiting = {
        terms,
        since: Date.now(),
        start: process => {
          terms.signal?.removeEventListener('abort', leave)
          resolve(process)
        },
      }
      const leave = () => {
        this.waiting = this.waiting.filter(each => each !== waiting)
        reject(gone())
      }
      terms.signal?.addEventListener('abort', leave, { once: true })
      this.waiting.push(waiting)
      this.next()
    })
  }

  private next(): void {
    while (this.running.size < this.bounds.most) {
      const first = this.first()
      if (!first) return
      this.waiting = this.waiting.filter(each => each !== first)
      const process = this.take()
      // Counted from now on, not from when it is told.
      this.running.set(process, first.terms.who)
      first.start(process)
    }
  }

  private first(): Waiting | undefined {
    const going = new Map<string, number>()
    for (const who of this.running.values()) going.set(who, (going.get(who) ?? 0) + 1)
    const ofOne = Math.max(1, this.bounds.most - 1)
    const now = Date.now()
    const rank = ({ terms: { who, size }, since }: Waiting) =>
      [going.get(who) ?? 0, now - since > PATIENCE ? -1 : classOf(size), since] as const
    return this.waiting
      .filter(({ terms: { who } }) => (going.get(who) ?? 0) < ofOne)
      .sort((one, other) => {
        const [a, b] = [rank(one), rank(other)]
        return a[0] - b[0] || a[1] - b[1] || a[2] - b[2]
      })[0]
  }

  private take(): Process {
    for (let at = this.idle.pop(); at; at = this.idle.pop()) {
      clearTimeout(at.timer)
      if (!at.process.isOver) return at.process
    }
    return this.begin()
  }

  private free(process: Process): void {
    if (process.isOver) return
    const timer = setTimeout(() => process.end(new Error('idle')), IDLE)
    timer.unref()
    this.idle.push({ process, timer })
  }
}

const gone = () => new ApiError(499, 'gone', 'Nobody waited for it any more.')
