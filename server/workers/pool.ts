import type { JobArguments, JobName, JobResult } from './jobs'
import { JobProcess } from './job-process'
import type { JobTerms, LaneBounds } from './lane'
import { Lane } from './lane'

const GIGABYTE = 1024 ** 3

/**
 * Saving has a process of its own: whatever else is made meanwhile, it does not wait for that. What is made or brought in, and what
 * is looked through or handed over, have three each, of which one person has two at most.
 */
const LANES = {
  saving: { most: 1, waiting: 500, memory: 1.5 * GIGABYTE, niceness: 0 },
  making: { most: 3, waiting: 100, memory: 1.5 * GIGABYTE, niceness: 5 },
  reading: { most: 3, waiting: 100, memory: 2 * GIGABYTE, niceness: 10 },
} satisfies Record<string, LaneBounds>

/** The lane of each job, its deadline in milliseconds, and whether it is ended when nobody waits for it. What changes something is done to its end. */
const TERMS: Record<JobName, { lane: keyof typeof LANES, deadline: number, endsWhenLeft?: true }> = {
  saveChanges: { lane: 'saving', deadline: 90_000 },
  goBack: { lane: 'saving', deadline: 60_000, endsWhenLeft: true },
  createPart: { lane: 'making', deadline: 60_000 },
  checkFile: { lane: 'making', deadline: 30_000, endsWhenLeft: true },
  makeSteps: { lane: 'making', deadline: 60_000 },
  makePart: { lane: 'making', deadline: 60_000 },
  remakePart: { lane: 'making', deadline: 90_000 },
  importFile: { lane: 'making', deadline: 100_000 },
  importAsked: { lane: 'making', deadline: 100_000 },
  handOver: { lane: 'reading', deadline: 100_000, endsWhenLeft: true },
  handOverAsked: { lane: 'reading', deadline: 100_000, endsWhenLeft: true },
  checkLevel: { lane: 'reading', deadline: 100_000, endsWhenLeft: true },
}

const lanes = new Map(Object.entries(LANES).map(([name, bounds]) => [name as keyof typeof LANES, new Lane(bounds, () => new JobProcess(bounds))]))

/**
 * Does a job in another process.
 *
 * @param signal tells that nobody waits any more
 * @throws ApiError what the job refused; 422 if it takes too long or too much memory; 503 if too many wait; 499 if nobody waits
 */
export async function inWorker<N extends JobName>(name: N, given: JobArguments<N>, { who = '', size = 0, signal, onProgress }: Partial<Omit<JobTerms, 'deadline'>> = {}): Promise<JobResult<N>> {
  const { lane, deadline, endsWhenLeft } = TERMS[name]
  return lanes.get(lane)!.run(name, given, { who, size, deadline, onProgress, ...endsWhenLeft ? { signal } : {} })
}

/** Ends all processes, when the server stops. */
export function endWorkers(): void {
  for (const lane of lanes.values()) lane.end()
}
