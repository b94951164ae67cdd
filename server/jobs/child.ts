import { setPriority } from 'node:os'
import { Worker } from 'node:worker_threads'
import type { Progress } from '../../core/api/schema'
import type { JobArguments, JobName, JobResult } from './jobs'
import work from './jobs'
import type { Outcome } from './outcome'

// Where a job process begins: it does one job after the other, and is ended from outside.

/** What a job process is asked. */
export type Asked<N extends JobName = JobName> = { name: N; given: JobArguments<N> }
/** What it says: how far it is, or what came of it, and the bytes of memory it has taken by then. */
export type Said<N extends JobName = JobName> =
  | { progress: Progress }
  | { outcome: Outcome<JobResult<N>>; memory: number }

/** Milliseconds between two words of how far a job is. */
const PROGRESS = 100

const [mostMemory = '0', niceness = '0'] = process.argv.slice(2)
// The server itself, and whoever is asked something small, come first.
setPriority(Number(niceness))
new Worker(new URL('./watch.mjs', import.meta.url), { workerData: { mostMemory: Number(mostMemory) } }).unref()

const say = (said: Said) => void process.send?.(said)
let told = 0

process.on('message', ({ name, given }: Asked) => {
  void work(name, given, progress => {
    if (Date.now() - told < PROGRESS) return
    told = Date.now()
    say({ progress })
  }).then(outcome => say({ outcome, memory: process.memoryUsage.rss() }))
})
process.on('disconnect', () => process.exit())
