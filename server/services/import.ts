import { and, asc, eq, inArray, isNull, or } from 'drizzle-orm'
import { v7 } from 'uuid'
import type { ImportAnswer, ImportQuery, Progress } from '../../core/api/schema'
import { importQuerySchema } from '../../core/api/schema'
import { censusOf } from '../../core/scene/census'
import { copiedRelations, puttingRelations } from '../../core/edit/copied'
import { pasteThings } from '../../core/edit/things'
import { FormatError } from '../../core/formats/format-error'
import { isGlb } from '../../core/formats/glb-chunks'
import type { OnShare } from '../../core/formats/out/share'
import { between, Counted } from '../../core/formats/out/share'
import { mappingSchema, readCells, readTable } from '../../core/formats/table/read-table'
import { applyChange, ChangeError } from '../../core/level/change'
import { Level } from '../../core/level/level'
import { RECORD_NAMES } from '../../core/level/schema'
import type { Operation, Placement } from '../../core/level/schema'
import { TABLE_OF } from '../../core/level/level'
import { soundRelations } from '../../core/relate/sound'
import { counted } from '../../core/units/plural'
import { asName } from '../../core/units/text'
import { bareView } from '../../core/scene/level-view'
import type { Database, Transaction } from '../db/client'
import { inTransaction, inTrial } from '../db/client'
import { changes, levels, parts } from '../db/schema'
import { ApiError } from '../utils/api-error'
import type { Doer } from './accounts'
import { saveWithin } from './changes'
import type { IncomingLevel, IncomingPart } from './import-level'
import { readGlbLevel, readLevelFile } from './import-level'
import { addPart, listKit } from './kit'
import { insertLevel, readContent } from './level-content'
import { needLevel } from './levels'
import { slices } from './small-tables'

export type ImportJob = Omit<ImportQuery, 'ticket'> & {
  bytes: Uint8Array
  /** Who brings it in, if that is proven; otherwise it says so itself. */
  by?: Doer
  /** Told how far it is. */
  onProgress?: (progress: Progress) => void
}

/** How far it is when the file is read, when all of it was looked at, and when it is written. */
const [READ, LOOKED_AT, WRITTEN] = [0.25, 0.45, 0.95]

/** Parts that come into the kit with one level. */
const MOST_PARTS = 3000

/** Bytes of a table; more is no table that people work with. */
const LARGEST_TABLE = 64 * 1024 * 1024

/**
 * Brings a file in, as a new level or into one: a binary glTF file, a level file or a table, told by its first bytes.
 * With `dry` it is only said what would happen. For a process of its own.
 *
 * @throws ApiError 404; 415 with what is wrong in the file, and where; 422 for what cannot be put into the level
 */
export async function importFileJob(db: Database, job: ImportJob): Promise<ImportAnswer> {
  try {
    if (job.bytes.length === 0) throw new FormatError('it is empty')
    if (isGlb(job.bytes)) return await bringLevel(db, job, 'glb', await readGlbLevel(job.bytes))
    if (job.bytes[0] === 0x50 && job.bytes[1] === 0x4b)
      return await bringLevel(db, job, 'level', await readLevelFile(job.bytes))
    return await bringTable(db, job)
  } catch (error) {
    if (error instanceof FormatError)
      throw new ApiError(415, 'unreadable', `body: ${error.message.slice(0, 500)}.`, { field: 'body' })
    if (error instanceof ChangeError)
      throw new ApiError(422, error.code, `body: ${error.message.slice(0, 500)}`, { field: 'body' })
    // What is refused of a part or a change was in the file.
    if (error instanceof ApiError && error.more.field && ['body', 'mapping'].every(known => error.more.field !== known))
      throw new ApiError(error.status, error.code, error.message.replace(/^[\w.]+: /, 'body: '), { field: 'body' })
    throw error
  }
}

/** The same for who asks without a server, with choices as an address has them. */
export async function importAskedJob(
  db: Database,
  { bytes, query }: { bytes: Uint8Array; query: unknown },
): Promise<ImportAnswer> {
  const read = importQuerySchema.safeParse(query)
  if (!read.success) throw ApiError.invalid(read.error, 'query')
  return importFileJob(db, { ...read.data, bytes })
}

async function bringLevel(
  db: Database,
  { name, into, dry, apply, author, by, onProgress }: ImportJob,
  format: 'glb' | 'level',
  level: IncomingLevel,
): Promise<ImportAnswer> {
  const called = name ?? level.name
  const share = sharing(onProgress)
  share(READ)
  return inOneGo(db, dry, async tx => {
    if (into) await needLevel(tx, into)
    const { known, fresh } = await sortParts(tx, level.parts)
    if (fresh.length > MOST_PARTS)
      throw new FormatError(
        `it has ${fresh.length.toLocaleString('en')} parts that are not in the kit, and ${MOST_PARTS.toLocaleString('en')} are brought in at once`,
      )
    const ids = new Map([...known, ...fresh.map(({ part, id }) => [part.part.id, id] as const)])
    const placements = level.placements.map(each =>
      each.partId === null ? each : { ...each, partId: ids.get(each.partId) ?? each.partId },
    )
    // Whatever does not hang together is refused before the meshes are looked at.
    const there = new Set(ids.values())
    applyChange(new Level(), operationsOf(placements, level.records), part => there.has(part))
    const { sound, missing, circling } = soundRelations(level.placements, level.records.relations)
    const records = { ...level.records, relations: sound }
    const left = [
      ...(missing > 0 ? [`${counted(missing, 'link')} to things that are not in it are left out.`] : []),
      ...(circling > 0
        ? [`${counted(circling, 'link')} of things that follow each other in a circle are left out.`]
        : []),
    ]
    const { things, copies, scatters } = censusOf(bareView(placements, records))
    const kept = new Counted(fresh.length, between(READ, LOOKED_AT, share))
    for (const { part, id } of fresh) {
      await addPart(tx, { ...part.part, id }, await part.read())
      kept.pass()
    }
    share(LOOKED_AT)
    const answer: ImportAnswer = {
      format,
      name: called,
      notes: [...level.notes, ...left],
      errors: [],
      errorCount: 0,
      levelId: null,
      revision: null,
      counts: {
        things,
        copies,
        ...(scatters > 0 ? { 'scatters to be dealt': scatters } : {}),
        'arrangements': placements.filter(({ kind }) => kind === 'arrangement').length,
        'parts': level.parts.length,
        'parts known': known.size,
        'parts new': fresh.length,
      },
    }
    if (!into) return { ...answer, ...(await asNewLevel(tx, called, placements, { ...level, records }, share)) }
    // Only now, after all that takes long: whoever saves to the level waits from here on.
    await lockLevel(tx, into)
    return intoLevel(tx, into, answer, await asThings(tx, into, placements, records), apply, { author, by })
  })
}

/**
 * Does all of it in one transaction, or nothing. With `dry` the same is done and taken back: what is refused then is
 * refused really, and what is taken really is taken then.
 */
async function inOneGo(
  db: Database,
  dry: boolean,
  work: (tx: Transaction) => Promise<ImportAnswer>,
): Promise<ImportAnswer> {
  if (!dry) return inTransaction(db, work)
  const { operations: _operations, ...answer } = await inTrial(db, work)
  return { ...answer, levelId: null, revision: null }
}

const sharing =
  (onProgress: ImportJob['onProgress'] = () => {}): OnShare =>
  share =>
    onProgress({ bytes: null, share })

/** Nobody else changes the level until this is done. @throws ApiError 404 */
async function lockLevel(tx: Transaction, id: string): Promise<number> {
  const [row] = await tx
    .select({ revision: levels.revision })
    .from(levels)
    .where(and(eq(levels.id, id), isNull(levels.deletedAt)))
    .for('update')
  if (!row) throw ApiError.notFound('level')
  return row.revision
}

/** Saves what is put into a level, or answers it for who makes the change. */
async function intoLevel(
  tx: Transaction,
  into: string,
  answer: ImportAnswer,
  operations: Operation[],
  apply: boolean,
  { author, by }: Pick<ImportJob, 'author' | 'by'>,
): Promise<ImportAnswer> {
  if (!apply) return { ...answer, operations }
  if (operations.length === 0) return answer
  const label = asName(`Bring in ${answer.name}`)
  const request = { baseRevision: await lockLevel(tx, into), changes: [{ id: v7(), label, author, operations }] }
  const { revision } = await saveWithin(tx, into, request, { person: by ?? null, role: 'work' })
  return { ...answer, levelId: into, revision }
}

/** Which parts are there already, by what is in them; and those that are not, with the ids they will have. */
async function sortParts(
  tx: Transaction,
  given: readonly IncomingPart[],
): Promise<{ known: Map<string, string>; fresh: { part: IncomingPart; id: string }[] }> {
  const known = new Map<string, string>()
  const fresh: { part: IncomingPart; id: string }[] = []
  const there = new Map<string, { id: string; meshHash: string }[]>()
  const taken = new Set<string>()
  for (const some of slices(given)) {
    const rows = await tx
      .select({ id: parts.id, meshHash: parts.meshHash })
      .from(parts)
      .where(
        or(
          inArray(
            parts.id,
            some.map(({ part }) => part.id),
          ),
          inArray(
            parts.meshHash,
            some.map(({ hash }) => hash),
          ),
        ),
      )
      .orderBy(asc(parts.id))
      .for('key share')
    for (const row of rows) {
      there.set(row.meshHash, [...(there.get(row.meshHash) ?? []), row])
      taken.add(row.id)
    }
  }
  for (const part of given) {
    const alike = there.get(part.hash) ?? []
    const found = alike.find(({ id }) => id === part.part.id) ?? alike[0]
    if (found) known.set(part.part.id, found.id)
    else fresh.push({ part, id: taken.has(part.part.id) ? v7() : part.part.id })
  }
  return { known, fresh }
}

function operationsOf(placements: readonly Placement[], records: IncomingLevel['records']): Operation[] {
  const small = RECORD_NAMES.flatMap(name =>
    records[TABLE_OF[name]].map(({ id, ...fields }) => ({ do: `put-${name}`, id, fields }) as Operation),
  )
  return [...small, ...placements.map(({ id, ...fields }): Operation => ({ do: 'put', id, fields }))]
}

async function asNewLevel(
  tx: Transaction,
  name: string,
  placements: Placement[],
  { records, journal, revision, kept }: IncomingLevel,
  share: OnShare,
): Promise<Pick<ImportAnswer, 'levelId' | 'revision'>> {
  const id = v7()
  await insertLevel(tx, id, name, { placements, ...records }, undefined, between(LOOKED_AT, WRITTEN, share))
  await tx.update(levels).set({ revision, kept }).where(eq(levels.id, id))
  const rows = journal.map(({ madeAt, ...change }) => ({ levelId: id, ...change, madeAt: new Date(madeAt) }))
  for (const some of slices(rows)) await tx.insert(changes).values(some)
  return { levelId: id, revision }
}

/**
 * What puts a level into another, with ids of its own: layers are found by their names, blocks that are alike are
 * shared.
 */
async function asThings(
  tx: Transaction,
  into: string,
  placements: readonly Placement[],
  records: IncomingLevel['records'],
): Promise<Operation[]> {
  const content = await readContent(tx, into)
  const target = bareView(content.placements, content)
  const ordered = inTreeOrder(placements)
  const { operations, copied } = pasteThings(
    target,
    {
      format: 'handy-grid things',
      version: 1,
      foot: [0, 0, 0],
      placements: ordered,
      blocks: records.blocks,
      parts: [],
      layers: records.layers.map(({ id, name, color }) => ({ id, name, color })),
    },
    null,
    () => true,
    v7,
  )
  const { within } = copiedRelations(records.relations, copied.made![0]!)
  return [...operations, ...puttingRelations(within, v7)]
}

/** Each after what it hangs from. */
function inTreeOrder(placements: readonly Placement[]): Placement[] {
  const level = new Level(placements)
  return level.children(null).flatMap(id => level.subtree(id).map(below => level.need(below)))
}

async function bringTable(
  db: Database,
  { bytes, name, into, dry, apply, author, by, mapping, onProgress }: ImportJob,
): Promise<ImportAnswer> {
  if (bytes.length > LARGEST_TABLE) throw new FormatError('it is too large for a table')
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes)
  } catch {
    throw new FormatError('it is neither a glTF file, nor a level file, nor a table in UTF-8')
  }
  const table = readCells(text)
  if (!table.guess.columns.some(column => column !== null))
    throw new FormatError(
      `line 1: none of its headings is a column that is known here (${table.headings.slice(0, 6).join(', ').slice(0, 200)})`,
    )
  const wanted = mappingOf(mapping, table.guess)
  const share = sharing(onProgress)
  share(READ)
  return inOneGo(db, dry, async tx => {
    if (into) await lockLevel(tx, into)
    const content = into ? await readContent(tx, into) : { placements: [] }
    const level = bareView(content.placements, content)
    const { operations, errors, errorCount, unmatched, joined, ...counts } = readTable(
      table,
      wanted,
      level,
      (await listKit(tx)).parts,
      v7,
    )
    share(LOOKED_AT)
    const answer: ImportAnswer = {
      format: 'table',
      name: name ?? 'Table',
      errors,
      errorCount,
      levelId: null,
      revision: null,
      counts: { rows: table.rows.length, ...counts },
      notes: [
        ...unmatched
          .slice(0, 20)
          .map(
            each =>
              `${each.rows} rows name the part "${each.name.slice(0, 100)}", ${each.candidates.length > 0 ? 'which several have' : 'which the kit does not have'}.`,
          ),
        ...(counts.copies > 0
          ? [`${counts.copies} rows say where copies are, which go by their rule; they are passed over.`]
          : []),
        ...(joined > 0
          ? [
              `${counted(joined, 'row has', 'rows have')} the id of one before; they are one thing with it, and what they say last holds.`,
            ]
          : []),
      ],
    }
    if (errorCount > 0) {
      if (dry) return answer
      const [{ line, column, message } = { line: 0, column: null, message: '' }] = errors
      throw new ApiError(
        422,
        'table',
        `body: line ${line}${column === null ? '' : `, column ${column}`}: ${message}${errorCount > 1 ? `; and ${errorCount - 1} more` : ''}. Nothing was changed.`,
        { field: 'body' },
      )
    }
    if (into) return intoLevel(tx, into, answer, operations, apply, { author, by })
    applyChange(level, operations)
    const id = v7()
    await insertLevel(
      tx,
      id,
      answer.name,
      { placements: [...level.placements()], layers: [...level.layers.values()] },
      undefined,
      between(LOOKED_AT, WRITTEN, share),
    )
    return { ...answer, levelId: id, revision: 0 }
  })
}

function mappingOf(given: string | undefined, guess: ReturnType<typeof readCells>['guess']): typeof guess {
  if (given === undefined) return guess
  let json: unknown
  try {
    json = JSON.parse(given)
  } catch {
    throw new ApiError(422, 'invalid', 'mapping: is no well-formed JSON.', { field: 'mapping' })
  }
  const read = mappingSchema.safeParse({ ...guess, ...(json as object) })
  if (!read.success)
    throw new ApiError(
      422,
      'invalid',
      `mapping: ${read.error.issues[0]!.path.join('.')} ${read.error.issues[0]!.message}`,
      { field: 'mapping' },
    )
  return read.data
}
