import { Tinypool } from 'tinypool'
import { ApiError } from '../utils/api-error'
import type { JobArguments, JobName, JobOutcome, JobResult } from './jobs'

/** Megabytes that one job may take; beyond it the job ends, not the server. */
const MOST_MEMORY = 2048

const pools = new Map<string, Tinypool>()

/** Saving has a thread of its own: whatever else is made meanwhile, it does not wait for that. */
const POOL_OF: Record<JobName, 'saving' | 'making' | 'checking' | 'handing'> = { saveChanges: 'saving', createPart: 'making', checkFile: 'making', makeSteps: 'making', makePart: 'making', remakePart: 'making', handOver: 'handing', handOverAsked: 'handing', importFile: 'making', importAsked: 'making', checkLevel: 'checking', goBack: 'saving' }

/**
 * Does a job in another thread.
 *
 * @param signal ends the job, and its thread with it
 * @throws ApiError what the job refused; 503 if it was too much for a thread
 */
export async function inWorker<N extends JobName>(name: N, given: JobArguments<N>, signal?: AbortSignal): Promise<JobResult<N>> {
  const kind = POOL_OF[name]
  let pool = pools.get(kind)
  if (!pool) {
    pools.set(kind, pool = new Tinypool({
      // Beside the server's first file, whose address this is once the server runs.
      filename: new URL('./jobs.mjs', import.meta.url).href, runtime: 'worker_threads', minThreads: 1, maxThreads: 1, concurrentTasksPerWorker: 1,
      // Between jobs a thread would stand still, with its connections to the database.
      useAtomics: false,
      resourceLimits: { maxOldGenerationSizeMb: MOST_MEMORY },
    }))
  }
  let outcome: JobOutcome<JobResult<N>>
  try {
    outcome = await pool.run({ name, given }, { signal }) as JobOutcome<JobResult<N>>
  }
  catch (error) {
    if (error instanceof Error && 'code' in error && error.code === 'ERR_WORKER_OUT_OF_MEMORY') throw new ApiError(503, 'too-heavy', 'This is more than the server has memory for. Nothing was changed.')
    if (signal?.aborted) throw new ApiError(499, 'gone', 'Nobody waited for it any more.')
    throw error
  }
  if (outcome.ok) return outcome.value
  const { status, code, message, more } = outcome.refused
  throw new ApiError(status, code, message, more)
}

/** Ends all threads, when the server stops. */
export async function endWorkers(): Promise<void> {
  await Promise.all([...pools.values()].map(pool => pool.destroy()))
  pools.clear()
}
