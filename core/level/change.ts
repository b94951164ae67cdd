import type { z } from 'zod'
import { firstIssue } from '../units/issue'
import { placeInWords } from './field-words'
import type { Level } from './level'
import { isSeen, TABLE_OF, writerOf } from './level'
import type { Change, Operation, Placement, RecordName } from './schema'
import { placementFieldsSchema, placementSchema, RECORDS } from './schema'

/** Why a change cannot be applied, with the place in it that is wrong. */
export class ChangeError extends Error {
  override name = 'ChangeError'
  /** @param field where in the change, such as `operations.0.fields.parentId` */
  constructor(
    readonly code: ChangeErrorCode,
    readonly field: string,
    message: string,
  ) {
    super(message)
  }
}

export type ChangeErrorCode =
  | 'incomplete'
  | 'missing'
  | 'cycle'
  | 'has-children'
  | 'unknown-part'
  | 'in-use'
  | 'too-deep'

export type Applied = {
  /** Operations that take the level back to exactly what it was. */
  inverse: Operation[]
  /** Every record put or removed that changes what is seen of placements: themselves, layers and blocks. */
  touched: Set<string>
}

/**
 * Applies a change to a level, all of it or nothing, and returns what undoes it.
 * The operations are done in order; the tree is checked once at the end, so records may come before their parents.
 *
 * @param hasPart tells whether the kit has a part; every part exists when left out
 * @throws ChangeError if a new record is incomplete, a record to remove is not there, a parent is missing or
 * would make a cycle, something removed still holds children, or a part is unknown; the level is then as before
 *
 * @example
 * import { createPlacement } from './create'
 * import { Level } from './level'
 * const id = '00000000-0000-7000-8000-000000000001'
 * const level = new Level([createPlacement({ id, name: 'Stall', kind: 'group' })])
 * const { inverse } = applyChange(level, [{ do: 'put', id, fields: { translation: [1, 0, 0] } }])
 * level.need(id).translation // [1, 0, 0]
 * applyChange(level, inverse)
 * level.need(id).translation // [0, 0, 0]
 */
export function applyChange(
  level: Level,
  operations: readonly Operation[],
  hasPart: (id: string) => boolean = () => true,
): Applied {
  const undone: Operation[] = []
  const touched = new Set<string>()
  try {
    operations.forEach((operation, index) => {
      undone.push(applyOperation(level, operation, `operations.${index}`))
      const record = recordIn(operation)
      if (record === null || isSeen(record)) touched.add(operation.id)
    })
    checkTree(level, operations, hasPart)
  } catch (error) {
    for (const operation of undone.reverse()) applyOperation(level, operation, '')
    throw error
  }
  return { inverse: undone.reverse(), touched }
}

/**
 * The records a change needs to be there without touching them: what it hangs things from, layers it puts things on,
 * blocks it shows.
 */
export function recordsNeeded(operations: Iterable<Operation>): Set<string> {
  const needed = new Set<string>()
  for (const operation of operations) {
    if (operation.do !== 'put') continue
    if (operation.fields.parentId) needed.add(operation.fields.parentId)
    if (operation.fields.layerId) needed.add(operation.fields.layerId)
    if (operation.fields.blockId) needed.add(operation.fields.blockId)
  }
  return needed
}

/** What changes have to do with, for telling whether others meet them; worked out once for as many as are compared. */
export type Footprint = { touched: ReadonlySet<string>; removed: ReadonlySet<string>; needed: ReadonlySet<string> }

export function footprintOf(changes: readonly Pick<Change, 'operations'>[]): Footprint {
  const [touched, removed] = [new Set<string>(), new Set<string>()]
  for (const { operations } of changes) {
    for (const operation of operations) {
      touched.add(operation.id)
      if (operation.do.startsWith('remove')) removed.add(operation.id)
    }
  }
  return { touched, removed, needed: recordsNeeded(changes.flatMap(({ operations }) => operations)) }
}

/**
 * Whether two changes, or two lists of them, made on the same state cannot both be kept: they touch the same record, or
 * one removes what the other hangs something from.
 */
export function conflicts(theirs: Footprint, mine: Footprint): boolean {
  return (
    overlap(theirs.touched, mine.touched)
    || overlap(theirs.removed, mine.needed)
    || overlap(mine.removed, theirs.needed)
  )
}

function overlap(a: ReadonlySet<string>, b: ReadonlySet<string>): boolean {
  const [few, many] = a.size < b.size ? [a, b] : [b, a]
  for (const id of few) if (many.has(id)) return true
  return false
}

function applyOperation(level: Level, operation: Operation, path: string): Operation {
  const record = recordIn(operation)
  if (record === null) return applyToPlacement(level, operation as PlacementOperation, path)
  return applyToTable(writerOf(level).table(record), RECORDS[record], record, operation, path) as Operation
}

/** Whether an operation is about notes alone, which those may write who may not change the level otherwise. */
export function isOfNotes(operation: Pick<Operation, 'do'>): boolean {
  const record = recordIn(operation)
  return record === 'thread' || record === 'answer'
}

/** What kind of the small records an operation is on; null for placements. */
export function recordIn({ do: what }: Pick<Operation, 'do'>): RecordName | null {
  const at = what.indexOf('-')
  return at < 0 ? null : (what.slice(at + 1) as RecordName)
}

/** Whether what an operation is on is in a level. */
export function isRecordThere(level: Level, { do: what, id }: Pick<Operation, 'do' | 'id'>): boolean {
  const record = recordIn({ do: what })
  return record === null ? level.has(id) : level[TABLE_OF[record]].has(id)
}

type PlacementOperation = Extract<Operation, { do: 'put' | 'remove' }>

function applyToPlacement(level: Level, operation: PlacementOperation, path: string): Operation {
  const before = level.get(operation.id)
  if (operation.do === 'remove') {
    if (!before) throw missing('placement', path)
    writerOf(level).erase(operation.id)
    return { do: 'put', id: operation.id, fields: withoutId(before) }
  }
  writerOf(level).put(
    before
      ? changed(before, operation, path)
      : complete(placementSchema, { id: operation.id, ...operation.fields }, path),
  )
  return before
    ? { do: 'put', id: operation.id, fields: fieldsOf(before, operation.fields) }
    : { do: 'remove', id: operation.id }
}

/** Made once: making a schema takes longer than reading with it. */
const someFields = placementFieldsSchema.partial()

/** Fields that only make sense together. */
const TOGETHER: readonly (keyof Placement)[] = ['kind', 'own', 'partId', 'blockId']

/**
 * A placement with some fields put. Only these are looked at: what a level holds from before a rule was made stricter
 * can still be moved, renamed, or mended.
 */
function changed(before: Placement, { fields }: Extract<Operation, { do: 'put' }>, path: string): Placement {
  const after = { ...before, ...fields }
  if (TOGETHER.some(key => key in fields)) return complete(placementSchema, after, path)
  return { ...after, ...complete(someFields, fields, path) }
}

type TableOperation = { do: string; id: string; fields?: object }

/** The same for the small tables of a level, whose records stand by themselves. */
function applyToTable(
  table: Map<string, { id: string }>,
  schema: z.ZodType<{ id: string }>,
  record: RecordName,
  operation: TableOperation,
  path: string,
): TableOperation {
  const { id, fields } = operation
  const before = table.get(id)
  if (!fields) {
    if (!before) throw missing(record, path)
    table.delete(id)
    return { do: `put-${record}`, id, fields: withoutId(before) }
  }
  table.set(id, complete(schema, { ...before, id, ...fields }, path))
  return before ? { do: `put-${record}`, id, fields: fieldsOf(before, fields) } : { do: `remove-${record}`, id }
}

function missing(record: string, path: string): ChangeError {
  return new ChangeError('missing', `${path}.id`, `There is no such ${record} to remove.`)
}

function withoutId<T extends { id: string }>({ id: _id, ...fields }: T): Omit<T, 'id'> {
  return fields
}

/** What a record holds in the fields about to be put. */
function fieldsOf<T extends object, F extends object>(record: T, fields: F): F {
  return Object.fromEntries(Object.keys(fields).map(key => [key, record[key as keyof T]])) as F
}

function complete<T>(schema: z.ZodType<T>, record: object, path: string): T {
  const parsed = schema.safeParse(record)
  if (parsed.success) return parsed.data
  const { path: at, message } = firstIssue(parsed.error)
  throw new ChangeError('incomplete', [path, 'fields', ...at].join('.'), `Its ${placeInWords(at)} ${message}.`)
}

function checkTree(level: Level, operations: readonly Operation[], hasPart: (id: string) => boolean): void {
  checkUnused(level, operations)
  const depths = new Map<string, number>()
  operations.forEach((operation, index) => {
    if (operation.do !== 'put' && operation.do !== 'remove') return
    const placement = level.get(operation.id)
    if (!placement) {
      if (level.hasChildren(operation.id)) {
        throw new ChangeError(
          'has-children',
          `operations.${index}.id`,
          'What hangs below it has to be removed or moved as well.',
        )
      }
      return
    }
    if (placement.partId !== null && !hasPart(placement.partId)) {
      throw new ChangeError('unknown-part', `operations.${index}.fields.partId`, 'The kit has no such part.')
    }
    if (
      placement.layerId !== null
      && operation.do === 'put'
      && operation.fields.layerId
      && !level.layers.has(placement.layerId)
    ) {
      throw new ChangeError('missing', `operations.${index}.fields.layerId`, 'There is no such layer.')
    }
    if (
      placement.blockId !== null
      && operation.do === 'put'
      && operation.fields.blockId
      && !level.blocks.has(placement.blockId)
    ) {
      throw new ChangeError('missing', `operations.${index}.fields.blockId`, 'There is no such block.')
    }
    if (operation.do === 'put' && operation.fields.parentId)
      checkParents(level, placement, depths, `operations.${index}.fields.parentId`)
  })
}

/** What nothing may use any more, because it was removed. */
function checkUnused(level: Level, operations: readonly Operation[]): void {
  const gone = new Map<string, number>()
  operations.forEach(({ do: done, id }, index) => {
    if ((done === 'remove-layer' && !level.layers.has(id)) || (done === 'remove-block' && !level.blocks.has(id)))
      gone.set(id, index)
  })
  if (gone.size === 0) return
  for (const { layerId, blockId } of level.placements()) {
    const index = gone.get(layerId ?? '') ?? gone.get(blockId ?? '')
    if (index === undefined) continue
    throw new ChangeError(
      'in-use',
      `operations.${index}.id`,
      operations[index]!.do === 'remove-layer' ? 'Things are still on this layer.' : 'Things still show this block.',
    )
  }
}

/** @param depths of what is known to hang from the top; grows, so that no way is gone twice */
function checkParents(level: Level, placement: Placement, depths: Map<string, number>, field: string): void {
  const passed: string[] = []
  const seen = new Set<string>()
  let depth = 0
  for (let at: Placement | undefined = placement; at; at = at.parentId === null ? undefined : level.get(at.parentId)) {
    const known = depths.get(at.id)
    if (known !== undefined) {
      depth = known
      break
    }
    passed.push(at.id)
    seen.add(at.id)
    if (at.parentId !== null && seen.has(at.parentId))
      throw new ChangeError('cycle', field, 'A thing cannot hang below itself.')
    if (at.parentId !== null && !level.has(at.parentId))
      throw new ChangeError('missing', field, 'There is no such thing to hang it from.')
  }
  if (depth + passed.length > DEEPEST)
    throw new ChangeError('too-deep', field, `Things can hang ${DEEPEST.toLocaleString('en')} deep and no deeper.`)
  for (const id of passed.reverse()) depths.set(id, ++depth)
}

/** Things above one another, from the top of the level. */
const DEEPEST = 10_001
