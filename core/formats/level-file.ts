import { z } from 'zod'
import { partSchema } from '../level/part'
import { placementSchema, changeSchema, operationSchema, RECORD_NAMES, RECORDS } from '../level/schema'
import type { Placement } from '../level/schema'
import { nameSchema } from '../level/fields'
import { recordTables } from '../level/unpack'
import type { LevelRecords } from '../level/level'
import { TABLE_OF } from '../level/level'
import { KINDS, kindSchema } from '../level/kinds'
import { PICTURE_TYPES } from '../mesh/texture'
import { firstIssue } from '../units/issue'
import { FormatError } from './format-error'
import type { Json } from '../units/json-bounds'
import { jsonProblem, jsonSize } from '../units/json-bounds'
import { MIGRATIONS } from './level-file-migrations'

/** The version that is written. Older ones are brought up to it, one step after the other. */
const LEVEL_FILE_VERSION = 2

/** Where things lie in the file, a ZIP (PKWARE's APPNOTE 6.3.10). */
export const LEVEL_JSON = 'level.json'
export const JOURNAL_JSON = 'journal.json'
export const meshPath = (hash: string) => `parts/${hash}.glb`
export const texturePath = (hash: string, type: string) =>
  `textures/${hash}.${type.replace('image/', '').replace('jpeg', 'jpg')}`

/** The database counts to 2^31; whoever brings such a level in goes on saving. */
export const MOST_REVISION = 2_000_000_000
const revision = z.int().min(0).max(MOST_REVISION)

/** Values within values of a level file, and values in all. What is known goes ten deep. */
const JSON_BOUNDS = { deepest: 64, most: 20_000_000 }

/**
 * A part as it lies in a level file: its mesh and its textures' pictures lie beside, by the hashes of what is in them.
 */
const filedPartSchema = partSchema.omit({ hasPicture: true }).extend({
  textures: z
    .array(z.strictObject({ picture: z.string().regex(/^[0-9a-f]{64}$/), type: z.enum(PICTURE_TYPES) }))
    .max(256),
})

/** Years that every database and calendar knows. */
const moment = z.iso
  .datetime()
  .refine(text => /^(19[7-9]|2\d\d)\d-/.test(text), 'must be from 1970 on, and before 3000')

/** A saved step of the level, with what takes it back; null for one from before that was kept. */
const filedChangeSchema = changeSchema.extend({
  revision: revision.min(1),
  madeAt: moment,
  inverse: z.array(operationSchema).nullable(),
})

/** `level.json`. What is not known of it is kept and written back. */
export const levelFileSchema = z.looseObject({
  format: z.literal('handy-grid level'),
  version: z.literal(LEVEL_FILE_VERSION),
  name: nameSchema,
  /** How many changes made it. */
  revision,
  placements: z.array(placementSchema),
  ...recordTables,
  parts: z.array(filedPartSchema),
})

export type FiledPart = z.infer<typeof filedPartSchema>
export type FiledChange = z.infer<typeof filedChangeSchema>

/** Something of a level file that is not known here: where it was, by the ids of records and the names of fields. */
export const keptSchema = z.strictObject({ path: z.array(z.string()).min(1).max(20), value: z.json() })
export type Kept = z.infer<typeof keptSchema>
/** Characters of all of it as JSON. */
const MOST_KEPT = 1_000_000

export type LevelFile = {
  name: string
  revision: number
  placements: Placement[]
  records: LevelRecords
  parts: FiledPart[]
  kept: Kept[]
}

/** The JSON Schema of `level.json` (draft 2020-12), as it is published. Further fields are allowed: they are kept. */
export function levelFileJsonSchema(): object {
  return {
    ...z.toJSONSchema(levelFileSchema, {
      io: 'input',
      unrepresentable: 'any',
      override: ({ jsonSchema }) => void delete jsonSchema.additionalProperties,
    }),
    title: 'Handy Grid level',
  }
}

/** `level.json` of a level, piece by piece: one text of it all might be longer than a text can be. */
export function* writeLevelJson({
  name,
  revision: number,
  placements,
  records,
  parts,
  kept,
}: LevelFile): Generator<string> {
  const keptOf = new Map<string, Kept[]>()
  for (const each of kept) {
    const key = each.path.slice(0, 2).join('/')
    keptOf.set(key, [...(keptOf.get(key) ?? []), each])
  }
  const rest = kept.filter(({ path }) => path.length === 1)
  yield JSON.stringify({
    format: 'handy-grid level',
    version: LEVEL_FILE_VERSION,
    name,
    revision: number,
    ...Object.fromEntries(rest.map(({ path: [key], value }) => [key, value])),
  }).slice(0, -1)
  for (const [key, list] of Object.entries<readonly { id: string }[]>({ placements, ...records, parts })) {
    yield `,"${key}":[`
    for (let i = 0; i < list.length; i += 1000) {
      yield (i > 0 ? ',' : '')
        + list
          .slice(i, i + 1000)
          .map(each => JSON.stringify(putBack(each, keptOf.get(`${key}/${each.id}`) ?? [])))
          .join(',\n')
    }
    yield ']'
  }
  yield '}\n'
}

/** A record with what was not known of it, where it was. */
function putBack(record: object, kept: readonly Kept[]): object {
  if (kept.length === 0) return record
  const whole = structuredClone(record) as Record<string, unknown>
  for (const { path, value } of kept) {
    let at: Record<string, unknown> | undefined = whole
    for (const key of path.slice(2, -1)) at = isObject(at?.[key]) ? at[key] : undefined
    const last = path.at(-1)!
    if (at && !(last in at)) at[last] = value
  }
  return whole
}

/**
 * Reads `level.json` of any version so far.
 *
 * @throws FormatError with the place in it
 */
export function readLevelJson(text: string): LevelFile {
  const given = migrated(parseJson(text, LEVEL_JSON))
  const kept: Kept[] = []
  let left = MOST_KEPT
  const keep = (path: string[], value: unknown) => {
    left -= jsonSize([path, value], left)
    if (left < 0)
      throw new FormatError(
        `${LEVEL_JSON}: /${path.slice(0, 4).join('/')}: has more that is not known here than can be kept`,
      )
    // All of the file was looked at as JSON.
    kept.push({ path, value: value as Json })
  }
  const { format: _format, version: _version, name, revision: number, ...lists } = given
  const head = z.object({ name: nameSchema, revision }).safeParse({ name, revision: number })
  if (!head.success) throw wrongAt(head.error, '')
  const table = <T extends { id: string }>(key: string, schema: z.ZodType<T>): T[] => {
    const list = lists[key] ?? []
    if (!Array.isArray(list)) throw new FormatError(`${LEVEL_JSON}: /${key} is no list`)
    const read = list.map((each: unknown, i) => readRecord(schema, each, [key], `/${key}/${i}`, keep))
    onlyOnce(read, ({ id }) => id, `${LEVEL_JSON}: /${key}`, 'id')
    return read
  }
  const records = Object.fromEntries(
    RECORD_NAMES.map(record => [
      TABLE_OF[record],
      table(TABLE_OF[record], RECORDS[record] as z.ZodType<{ id: string }>),
    ]),
  ) as LevelRecords
  const file = {
    name: head.data.name,
    revision: head.data.revision,
    placements: table('placements', placementSchema),
    records,
    parts: table('parts', filedPartSchema),
  }
  const known = new Set(['placements', 'parts', ...Object.values<string>(TABLE_OF)])
  for (const [key, value] of Object.entries(lists)) if (!known.has(key)) keep([key], value)
  return { ...file, kept }
}

/**
 * Reads the journal of a level: each change once, in the order of their numbers.
 *
 * @param last number of the level's changes
 * @returns those up to it, and how many are left out: they were made after the level was written, and are not in it
 * @throws FormatError with the place in it
 */
export function readJournal(text: string, last: number): { changes: FiledChange[]; leftOut: number } {
  const read = z.array(filedChangeSchema).max(100_000).safeParse(parseJson(text, JOURNAL_JSON))
  if (!read.success) throw new FormatError(`${JOURNAL_JSON}: ${sayIssue(read.error)}`)
  const disorder = read.data.findIndex(({ revision: number }, i) => i > 0 && number <= read.data[i - 1]!.revision)
  if (disorder > 0) throw new FormatError(`${JOURNAL_JSON}: /${disorder}/revision is not higher than the one before`)
  onlyOnce(read.data, ({ id }) => id, `${JOURNAL_JSON}: `, 'id')
  const changes = read.data.filter(({ revision: number }) => number <= last)
  return { changes, leftOut: read.data.length - changes.length }
}

/** @throws FormatError for the second that has the same */
function onlyOnce<T>(list: readonly T[], of: (each: T) => string, where: string, what: string): void {
  const seen = new Set<string>()
  list.forEach((each, i) => {
    if (seen.has(of(each))) throw new FormatError(`${where}/${i}/${what} is there twice`)
    seen.add(of(each))
  })
}

function parseJson(text: string, what: string): unknown {
  let json: unknown
  try {
    json = JSON.parse(text)
  } catch {
    throw new FormatError(`${what} is no well-formed JSON`)
  }
  const problem = jsonProblem(json, JSON_BOUNDS)
  if (problem) throw new FormatError(`${what}: ${problem}`)
  return json
}

/** A level of an older version brought up to this one. */
function migrated(given: unknown): Record<string, unknown> {
  if (!isObject(given) || given.format !== 'handy-grid level')
    throw new FormatError(`${LEVEL_JSON} is not that of a level`)
  const { version } = given
  if (typeof version !== 'number' || !Number.isInteger(version) || version < 1)
    throw new FormatError(`${LEVEL_JSON}: /version is no whole number`)
  if (version > LEVEL_FILE_VERSION)
    throw new FormatError(
      `it was written by a later version of this program (${version}; here ${LEVEL_FILE_VERSION} is the latest)`,
    )
  let at = given
  for (let from = version; from < LEVEL_FILE_VERSION; from++) at = MIGRATIONS[from]!(at)
  return at
}

/** A record without what is not known of it, which is put beside; the record that was given loses it. */
function readRecord<T extends { id: string }>(
  schema: z.ZodType<T>,
  record: unknown,
  above: string[],
  where: string,
  keep: (path: string[], value: unknown) => void,
): T {
  if (!isObject(record)) throw new FormatError(`${LEVEL_JSON}: ${where} is no object`)
  const own = kindSchema.safeParse(record.kind).data
  const strange = [
    ...strangeIn(schema, record, []),
    ...(own && isObject(record.own) ? strangeIn(KINDS[own].own, record.own, ['own']) : []),
  ]
  const read = schema.safeParse(record)
  if (!read.success) throw wrongAt(read.error, where)
  for (const { path, value } of strange) keep([...above, read.data.id, ...path], value)
  return read.data
}

/** Takes the keys that a schema does not know out of an object. */
function strangeIn(
  schema: z.ZodType,
  record: Record<string, unknown>,
  above: string[],
): { path: string[]; value: unknown }[] {
  const found: { path: string[]; value: unknown }[] = []
  const { error } = schema.safeParse(record)
  for (const issue of error?.issues ?? []) {
    if (issue.code !== 'unrecognized_keys') continue
    let at: unknown = record
    for (const key of issue.path)
      at = isObject(at) || Array.isArray(at) ? (at as Record<PropertyKey, unknown>)[key] : undefined
    if (!isObject(at)) continue
    for (const key of issue.keys) {
      found.push({ path: [...above, ...issue.path.map(String), key], value: at[key] })
      delete at[key]
    }
  }
  return found
}

const isObject = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

function sayIssue(error: z.ZodError): string {
  const { path, message } = firstIssue(error)
  return `${path.length > 0 ? `/${path.map(String).join('/')} ` : ''}${message}`
}

const wrongAt = (error: z.ZodError, where: string) => new FormatError(`${LEVEL_JSON}: ${where}${sayIssue(error)}`)
