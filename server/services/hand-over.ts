import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { sql } from 'drizzle-orm'
import type { FormatName, FormatOptions, HandOverReport } from '../../core/formats/formats'
import { FORMATS } from '../../core/formats/formats'
import { HandOverError } from '../../core/formats/out/hand-over-error'
import { TooMuchToDraw } from '../../core/formats/plan/drawing'
import { counted, wordFor } from '../../core/units/plural'
import type { Database, Transaction } from '../db/client'
import type { Progress } from '../../core/api/schema'
import { inTransaction, ONE_MOMENT } from '../db/client'
import { ApiError } from '../utils/api-error'
import { FileSink } from './file-sink'
import type { WholeLevel } from './whole-level'
import { readWholeLevel, TooLongToDeal } from './whole-level'
import type { Output, Source } from './writers'
import { WRITERS } from './writers'

export type HandOverJob = {
  id: string
  format: FormatName
  /** Choices of the format, as an address has them. */
  query: unknown
  /** Where the file is made, in a folder that is removed by who asked for it. */
  folder: string
  /** Told how far it is. */
  onProgress?: (progress: Progress) => void
}

/**
 * A file made for one answer, in pieces that follow each other: what is only known at the end may stand at the
 * beginning.
 */
export type HandedOver = { paths: string[]; report: HandOverReport }

/**
 * A level as a file, as of one moment, with choices as an address has them. For a process of its own. What is written
 * goes to the disk as it is made.
 *
 * @throws ApiError 404; 422 if it does not fit into a file like this, or for a choice that there is not
 */
export async function handOverJob(db: Database, { query, ...job }: HandOverJob): Promise<HandedOver> {
  const options = FORMATS[job.format].options.strict().safeParse(query)
  if (!options.success) throw ApiError.invalid(options.error, 'query')
  const read = options.data as FormatOptions<FormatName>
  return inTransaction(db, tx => writeFrom(tx, { ...job, options: read }), { ...ONE_MOMENT, accessMode: 'read only' })
}

/** All that is read of the level, its parts and its journal is of the transaction's moment. */
async function writeFrom(
  tx: Transaction,
  { id, format, options, folder, onProgress }: Omit<HandOverJob, 'query'> & { options: FormatOptions<FormatName> },
): Promise<HandedOver> {
  // Between its questions it works; the job's own deadline ends it.
  await tx.execute(sql`set local idle_in_transaction_session_timeout = 0`)
  try {
    const whole = await readWholeLevel(tx, id, 'file')
    const [headPath, bodyPath] = [join(folder, 'head'), join(folder, 'body')]
    const body = await FileSink.open(bodyPath)
    let head: Uint8Array | null = null
    let share: number | null = null
    const write = WRITERS[format] as (
      source: Source,
      options: FormatOptions<FormatName>,
      output: Output,
    ) => Promise<Omit<HandOverReport, 'bytes'>>
    let report: Omit<HandOverReport, 'bytes'>
    try {
      report = await write({ tx, id, whole, now: new Date() }, options, {
        write: piece => {
          const more = body.write(piece)
          onProgress?.({ bytes: body.length, share })
          return more
        },
        head: bytes => {
          head = bytes
        },
        share: next => {
          share = next
          onProgress?.({ bytes: body.length, share })
        },
      })
    } catch (error) {
      await body.close()
      throw error
    }
    await body.end()
    if (head) await writeFile(headPath, head)
    return {
      paths: head ? [headPath, bodyPath] : [bodyPath],
      report: { ...report, remarks: [...report.remarks, ...missing(whole)], bytes: body.length + sizeOf(head) },
    }
  } catch (error) {
    if (error instanceof HandOverError || error instanceof TooLongToDeal || error instanceof TooMuchToDraw)
      throw new ApiError(422, 'too-much', error.message, { field: format === 'glb' ? 'instanced' : 'only' })
    throw error
  }
}

// What a callback has set is not known to be set where it was declared.
const sizeOf = (bytes: Uint8Array | null) => bytes?.length ?? 0

function missing({ unreadable }: WholeLevel): string[] {
  const names = [...unreadable.values()]
  return names.length === 0
    ? []
    : [
        `${counted(names.length, 'part')} cannot be read (${names
          .slice(0, 5)
          .map(name => `"${name}"`)
          .join(
            ', ',
          )}${names.length > 5 ? ' …' : ''}); what shows ${wordFor(names.length, 'it', 'them')} is handed over without a shape.`,
      ]
}
