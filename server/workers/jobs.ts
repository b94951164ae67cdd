import type { ApiError as ApiErrorType } from '../utils/api-error'
import { ApiError } from '../utils/api-error'
import type { Database } from '../db/client'
import { openPool } from '../db/client'
import { checkFileJob, createPartJob } from '../services/new-part'
import { checkLevelJob } from '../services/check'
import { handOverAskedJob, handOverJob } from '../services/hand-over'
import { importAskedJob, importFileJob } from '../services/import'
import { makePartJob, remakePartJob } from '../services/workshop'
import { makeStepsJob } from '../services/steps'
import { goBackJob, saveChangesJob } from '../services/changes'

// What takes long is done here, in a thread of its own with connections of its own, so that nobody else waits for it.

const JOBS = { saveChanges: saveChangesJob, createPart: createPartJob, checkFile: checkFileJob, makeSteps: makeStepsJob, makePart: makePartJob, remakePart: remakePartJob, handOver: handOverJob, handOverAsked: handOverAskedJob, importFile: importFileJob, importAsked: importAskedJob, checkLevel: checkLevelJob, goBack: goBackJob }

export type Jobs = typeof JOBS
export type JobName = keyof Jobs
export type JobArguments<N extends JobName> = Parameters<Jobs[N]>[1]
export type JobResult<N extends JobName> = Awaited<ReturnType<Jobs[N]>>

/** An error does not keep its class on its way to another thread. */
export type JobOutcome<T> = { ok: true, value: T } | { ok: false, refused: Pick<ApiErrorType, 'status' | 'code' | 'message' | 'more'> }

let db: Database | undefined

export default async function work<N extends JobName>({ name, given }: { name: N, given: JobArguments<N> }): Promise<JobOutcome<JobResult<N>>> {
  db ??= openPool(2)
  const run = JOBS[name] as (db: Database, given: JobArguments<N>) => Promise<JobResult<N>>
  try {
    return { ok: true, value: await run(db, given) }
  }
  catch (error) {
    if (!(error instanceof ApiError)) throw error
    const { status, code, message, more } = error
    return { ok: false, refused: { status, code, message, more } }
  }
}
