import { workerData } from 'node:worker_threads'

// Beside a job, in a thread that is never busy: it ends the process when that has taken more memory than it may,
// whatever took it (the heap has a limit of its own; buffers and WebAssembly have none), and when the server is gone
// for which the job is done.

/** Milliseconds between two looks. */
const EVERY = 50
/** The signal by which a process ends that took too much: nothing else here sends it. */
const TOO_MUCH = 'SIGUSR2'

const { mostMemory } = workerData as { mostMemory: number }
const server = process.ppid

setInterval(() => {
  if (process.memoryUsage.rss() > mostMemory) process.kill(process.pid, TOO_MUCH)
  if (process.ppid !== server) process.kill(process.pid, 'SIGKILL')
}, EVERY)
