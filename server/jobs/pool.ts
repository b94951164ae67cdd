import type { JobArguments, JobName, JobResult } from './jobs'
import { JobProcess } from './job-process'
import type { JobTerms, LaneBounds } from './lane'
import { Lane } from './lane'

/** What one job may take at most, by the environment: megabytes of memory, and seconds. Most kinds may take less. */
const MEMORY = settingOf('HANDY_GRID_JOB_MEMORY', 2048, 128, 16_384) * 1024 ** 2
const LONGEST = settingOf('HANDY_GRID_JOB_SECONDS', 100, 1, 100) * 1000

/** @throws Error if it is none from `least` to `most` */
function settingOf(name: string, usual: number, least: number, most: number): number {
  const value = Number(process.env[name] || usual)
  if (!(value >= least && value <= most)) throw new Error(`${name} has to be a number from ${least} to ${most}.`)
  return value
}

/**
 * Saving has a process of its own: whatever else is made meanwhile, it does not wait for that. What is made or brought
 * in, and what is looked through or handed over, have three each, of which one person has two at most.
 */
const LANES = {
  saving: { most: 1, waiting: 500, memory: 0.75 * MEMORY, niceness: 0 },
  making: { most: 3, waiting: 100, memory: 0.75 * MEMORY, niceness: 5 },
  reading: { most: 3, waiting: 100, memory: MEMORY, niceness: 10 },
} satisfies Record<string, LaneBounds>

/**
 * The lane of each job, its deadline as a share of the longest, and whether it is ended when nobody waits for it. What
 * changes something is done to its end.
 */
const TERMS: Record<JobName, { lane: LaneName; deadline: number; endsWhenLeft?: true }> = {
  saveChanges: { lane: 'saving', deadline: 0.9 },
  goBack: { lane: 'saving', deadline: 0.6, endsWhenLeft: true },
  readJournal: { lane: 'saving', deadline: 0.6, endsWhenLeft: true },
  createPart: { lane: 'making', deadline: 0.6 },
  checkFile: { lane: 'making', deadline: 0.3, endsWhenLeft: true },
  makeSteps: { lane: 'making', deadline: 0.6 },
  makePart: { lane: 'making', deadline: 0.6 },
  remakePart: { lane: 'making', deadline: 0.9 },
  importFile: { lane: 'making', deadline: 1 },
  importAsked: { lane: 'making', deadline: 1 },
  handOver: { lane: 'reading', deadline: 1, endsWhenLeft: true },
  checkLevel: { lane: 'reading', deadline: 1, endsWhenLeft: true },
  peopleAsked: { lane: 'saving', deadline: 0.3 },
  createLevel: { lane: 'making', deadline: 0.9 },
  keepMilestone: { lane: 'reading', deadline: 0.6 },
  compare: { lane: 'reading', deadline: 0.9, endsWhenLeft: true },
  playRecipe: { lane: 'saving', deadline: 0.6 },
  playAsked: { lane: 'saving', deadline: 0.6 },
}

export type LaneName = keyof typeof LANES

const lanes = new Map(
  Object.entries(LANES).map(([name, bounds]) => [name as LaneName, new Lane(bounds, () => new JobProcess(bounds))]),
)

/** Jobs by lane: those that are done right now, and those that wait. */
export function jobCounts(): { running: Record<string, number>; waiting: Record<string, number> } {
  const counts = [...lanes].map(([name, lane]) => ({ name, ...lane.counts }))
  const by = (of: 'running' | 'waiting') => Object.fromEntries(counts.map(each => [each.name, each[of]]))
  return { running: by('running'), waiting: by('waiting') }
}

/**
 * Does a job in another process.
 *
 * @param signal tells that nobody waits any more
 * @throws ApiError what the job refused; 422 if it takes too long or too much memory; 503 if too many wait; 499 if
 *   nobody waits
 */
export async function inWorker<N extends JobName>(
  name: N,
  given: JobArguments<N>,
  { who = '', size = 0, signal, onProgress }: Partial<Omit<JobTerms, 'deadline'>> = {},
): Promise<JobResult<N>> {
  const { lane, deadline, endsWhenLeft } = TERMS[name]
  return lanes
    .get(lane)!
    .run(name, given, { who, size, deadline: deadline * LONGEST, onProgress, ...(endsWhenLeft ? { signal } : {}) })
}

/** The lane of a job, the seconds it may take, and whether it is ended when nobody waits for it. */
export function termsOf(name: JobName): { lane: LaneName; seconds: number; endsWhenLeft: boolean } {
  const { lane, deadline, endsWhenLeft = false } = TERMS[name]
  return { lane, seconds: (deadline * LONGEST) / 1000, endsWhenLeft }
}

/** How many jobs of a lane are done at a time, and how many are being done or wait for it. */
export function loadOf(lane: LaneName): { most: number; busy: number } {
  const { running, waiting } = lanes.get(lane)!.counts
  return { most: LANES[lane].most, busy: running + waiting }
}

/** Ends all processes, when the server stops. */
export function endWorkers(): void {
  for (const lane of lanes.values()) lane.end()
}
