import type { Progress } from '../../core/api/schema'
import type { ChildProcess } from 'node:child_process'
import { fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { ApiError } from '../utils/api-error'
import type { Asked, Said } from './child'
import type { JobArguments, JobName, JobResult } from './jobs'
import { valueOf } from './outcome'

export type ProcessBounds = {
  /** Bytes of memory that the process may take, whatever for. */
  memory: number
  /** How much it stands back for others, from 0 to 19. */
  niceness: number
}

/** Of the memory it may take, the share beyond which a process that is done is not used again. */
const WORN = 0.5

type Running = {
  onProgress?: (progress: Progress) => void
  done: (said: Extract<Said, { outcome: unknown }>) => void
  failed: (error: Error) => void
}

/**
 * A process that does one job at a time. It can be ended while it does one; the job's transactions end with it, undone.
 */
export class JobProcess {
  private readonly child: ChildProcess
  private running: Running | null = null
  private endedFor: Error | null = null
  /** It takes no further job. */
  isOver = false

  constructor(private readonly bounds: ProcessBounds) {
    // Beside the server's first file, whose address this is once the server runs.
    this.child = fork(
      fileURLToPath(new URL('./child.mjs', import.meta.url)),
      [String(bounds.memory), String(bounds.niceness)],
      {
        serialization: 'advanced',
        stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
        execArgv: [`--max-old-space-size=${Math.floor(bounds.memory / 1024 / 1024)}`],
      },
    )
    this.child.on('message', (said: Said) => {
      if ('progress' in said) return this.running?.onProgress?.(said.progress)
      const { running } = this
      this.running = null
      if (said.memory > bounds.memory * WORN) this.end(new Error('worn'))
      running?.done(said)
    })
    this.child.once('error', error => this.over(error))
    this.child.once('exit', (code, signal) => this.over(this.endedFor ?? whyEnded(code, signal, bounds.memory)))
    // The server does not go on for its sake.
    this.child.unref()
    this.child.channel?.unref()
  }

  /** @throws ApiError what the job refused, or why it was ended; Error what failed in it */
  async run<N extends JobName>(
    name: N,
    given: JobArguments<N>,
    onProgress?: (progress: Progress) => void,
  ): Promise<JobResult<N>> {
    const { outcome } = await new Promise<Extract<Said<N>, { outcome: unknown }>>((done, failed) => {
      this.running = { onProgress, done: done as Running['done'], failed }
      this.child.send({ name, given } satisfies Asked<N>, error => {
        if (error) this.over(error)
      })
    })
    return valueOf(outcome)
  }

  /** Ends it at once, whatever it does. @param why what its job is answered */
  end(why: Error): void {
    this.endedFor ??= why
    this.isOver = true
    this.child.kill('SIGKILL')
  }

  private over(why: Error): void {
    this.isOver = true
    this.running?.failed(why)
    this.running = null
  }
}

/**
 * By itself a process ends only for want of memory: its own watch says so, or the heap's limit, or the machine has none
 * left.
 */
function whyEnded(code: number | null, signal: NodeJS.Signals | null, memory: number): Error {
  const tooMuch = new ApiError(
    422,
    'too-heavy',
    `This takes more memory than the ${(memory / 1024 ** 3).toFixed(1)} GB that one job may take. Nothing was changed.`,
    { field: 'body' },
  )
  return signal !== null || code === 134 ? tooMuch : new Error(`a job's process ended with ${code}`)
}
