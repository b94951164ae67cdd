import type { Progress } from '../../core/api/schema'
import type { Database } from '../db/client'
import { openPool } from '../db/client'
import { peopleAskedJob } from '../services/accounts'
import { readJournalJob, saveChangesJob } from '../services/changes'
import { checkLevelJob } from '../services/check'
import { compareJob } from '../services/compare'
import { goBackJob } from '../services/go-back'
import { handOverJob } from '../services/hand-over'
import { importAskedJob, importFileJob } from '../services/import'
import { checkFileJob, createPartJob } from '../services/new-part'
import { createLevelJob } from '../services/levels'
import { keepMilestoneJob } from '../services/milestones'
import { playAskedJob, playRecipeJob } from '../services/play'
import { makeStepsJob } from '../services/steps'
import { makePartJob, remakePartJob } from '../services/workshop'
import type { Outcome } from './outcome'
import { outcomeOf } from './outcome'

// What takes long is done here, in a process of its own with connections of its own, so that nobody else waits for it.

const JOBS = {
  saveChanges: saveChangesJob,
  createPart: createPartJob,
  checkFile: checkFileJob,
  makeSteps: makeStepsJob,
  makePart: makePartJob,
  remakePart: remakePartJob,
  handOver: handOverJob,
  importFile: importFileJob,
  importAsked: importAskedJob,
  checkLevel: checkLevelJob,
  goBack: goBackJob,
  readJournal: readJournalJob,
  peopleAsked: peopleAskedJob,
  createLevel: createLevelJob,
  keepMilestone: keepMilestoneJob,
  compare: compareJob,
  playRecipe: playRecipeJob,
  playAsked: playAskedJob,
}

export type Jobs = typeof JOBS
export type JobName = keyof Jobs
/** What a job is given; how far it is goes another way between processes. */
export type JobArguments<N extends JobName> = Omit<Parameters<Jobs[N]>[1], 'onProgress'>
export type JobResult<N extends JobName> = Awaited<ReturnType<Jobs[N]>>

let db: Database | undefined

/** @param onProgress told how far the job is, by those that say it */
export default async function work<N extends JobName>(
  name: N,
  given: JobArguments<N>,
  onProgress?: (progress: Progress) => void,
): Promise<Outcome<JobResult<N>>> {
  db ??= openPool(2)
  const run = JOBS[name] as unknown as (
    db: Database,
    given: JobArguments<N> & { onProgress?: (progress: Progress) => void },
  ) => Promise<JobResult<N>>
  return outcomeOf(run(db, { ...given, onProgress }))
}
