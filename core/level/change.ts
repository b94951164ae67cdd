import type { z } from 'zod'
import type { LevelDocument } from './document'
import type { Change, Operation, Placement } from './schema'
import { blockSchema, layerSchema, placementSchema, stationSchema } from './schema'

/** Why a change cannot be applied, with the place in it that is wrong. */
export class ChangeError extends Error {
  override name = 'ChangeError'
  /** @param field where in the change, such as `operations.0.fields.parentId` */
  constructor(readonly code: ChangeErrorCode, readonly field: string, message: string) {
    super(message)
  }
}

export type ChangeErrorCode = 'incomplete' | 'missing' | 'cycle' | 'has-children' | 'unknown-part' | 'in-use'

export type Applied = {
  /** Operations that take the document back to exactly what it was. */
  inverse: Operation[]
  /** Every record put or removed. */
  touched: Set<string>
}

/**
 * Applies a change to a document, all of it or nothing, and returns what undoes it.
 * The operations are done in order; the tree is checked once at the end, so records may come before their parents.
 *
 * @param hasPart tells whether the kit has a part; every part exists when left out
 * @throws ChangeError if a new record is incomplete, a record to remove is not there, a parent is missing or
 * would make a cycle, something removed still holds children, or a part is unknown; the document is then as before
 */
export function applyChange(document: LevelDocument, operations: readonly Operation[], hasPart: (id: string) => boolean = () => true): Applied {
  const inverse: Operation[] = []
  const touched = new Set<string>()
  try {
    operations.forEach((operation, index) => {
      inverse.unshift(applyOperation(document, operation, `operations.${index}`))
      touched.add(operation.id)
    })
    checkTree(document, operations, hasPart)
  }
  catch (error) {
    for (const operation of inverse) applyOperation(document, operation, '')
    throw error
  }
  return { inverse, touched }
}

/** The records a change needs to be there without touching them: what it hangs things from, layers it puts things on, blocks it shows. */
export function recordsNeeded(operations: readonly Operation[]): Set<string> {
  const needed = new Set<string>()
  for (const operation of operations) {
    if (operation.do !== 'put') continue
    if (operation.fields.parentId) needed.add(operation.fields.parentId)
    if (operation.fields.layerId) needed.add(operation.fields.layerId)
    if (operation.fields.blockId) needed.add(operation.fields.blockId)
  }
  return needed
}

/**
 * Whether two changes made on the same state cannot both be kept: they touch the same record,
 * or one removes what the other hangs something from.
 */
export function conflicts(theirs: Pick<Change, 'operations'>, mine: Pick<Change, 'operations'>): boolean {
  const touched = new Set(theirs.operations.map(operation => operation.id))
  if (mine.operations.some(operation => touched.has(operation.id))) return true
  return removesNeeded(theirs.operations, mine.operations) || removesNeeded(mine.operations, theirs.operations)
}

function removesNeeded(removing: readonly Operation[], needing: readonly Operation[]): boolean {
  const needed = recordsNeeded(needing)
  return removing.some(operation => operation.do.startsWith('remove') && needed.has(operation.id))
}

function applyOperation(document: LevelDocument, operation: Operation, path: string): Operation {
  switch (operation.do) {
    case 'put':
    case 'remove':
      return applyToPlacement(document, operation, path)
    case 'put-layer':
    case 'remove-layer':
      return applyToTable(document.layers, layerSchema, 'layer', operation, path) as Operation
    case 'put-block':
    case 'remove-block':
      return applyToTable(document.blocks, blockSchema, 'block', operation, path) as Operation
    default:
      return applyToTable(document.stations, stationSchema, 'station', operation, path) as Operation
  }
}

function applyToPlacement(document: LevelDocument, operation: Extract<Operation, { do: 'put' | 'remove' }>, path: string): Operation {
  const before = document.get(operation.id)
  if (operation.do === 'remove') {
    if (!before) throw missing('placement', path)
    document.erase(operation.id)
    return { do: 'put', id: operation.id, fields: withoutId(before) }
  }
  document.write(complete(placementSchema, { ...before, id: operation.id, ...operation.fields }, path))
  return before ? { do: 'put', id: operation.id, fields: fieldsOf(before, operation.fields) } : { do: 'remove', id: operation.id }
}

type TableOperation = { do: string, id: string, fields?: object }

/** The same for the small tables of a level, whose records stand by themselves. */
function applyToTable<T extends { id: string }>(table: Map<string, T>, schema: z.ZodType<T>, record: string, operation: TableOperation, path: string): TableOperation {
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
  const issue = parsed.error.issues[0]!
  throw new ChangeError('incomplete', [path, 'fields', ...issue.path].join('.'), `${issue.path.join('.')}: ${issue.message}`)
}

function checkTree(document: LevelDocument, operations: readonly Operation[], hasPart: (id: string) => boolean): void {
  operations.forEach((operation, index) => {
    if (operation.do === 'remove-layer') checkIsFree(document, document.layers, 'layerId', operation.id, `operations.${index}.id`)
    if (operation.do === 'remove-block') checkIsFree(document, document.blocks, 'blockId', operation.id, `operations.${index}.id`)
    if (operation.do !== 'put' && operation.do !== 'remove') return
    const placement = document.get(operation.id)
    if (!placement) {
      if (document.hasChildren(operation.id)) {
        throw new ChangeError('has-children', `operations.${index}.id`, 'What hangs below it has to be removed or moved as well.')
      }
      return
    }
    if (placement.partId !== null && !hasPart(placement.partId)) {
      throw new ChangeError('unknown-part', `operations.${index}.fields.partId`, 'The kit has no such part.')
    }
    if (placement.layerId !== null && operation.do === 'put' && operation.fields.layerId && !document.layers.has(placement.layerId)) {
      throw new ChangeError('missing', `operations.${index}.fields.layerId`, 'There is no such layer.')
    }
    if (placement.blockId !== null && operation.do === 'put' && operation.fields.blockId && !document.blocks.has(placement.blockId)) {
      throw new ChangeError('missing', `operations.${index}.fields.blockId`, 'There is no such block.')
    }
    if (operation.do === 'put' && operation.fields.parentId) checkParent(document, placement, `operations.${index}.fields.parentId`)
  })
}

function checkIsFree(document: LevelDocument, table: ReadonlyMap<string, unknown>, key: 'layerId' | 'blockId', id: string, field: string): void {
  if (table.has(id)) return
  for (const placement of document.placements()) {
    if (placement[key] === id) throw new ChangeError('in-use', field, key === 'layerId' ? 'Things are still on this layer.' : 'Things still show this block.')
  }
}

function checkParent(document: LevelDocument, placement: Placement, field: string): void {
  const passed = new Set([placement.id])
  for (let at = placement.parentId; at !== null;) {
    if (passed.has(at)) throw new ChangeError('cycle', field, 'A placement cannot hang below itself.')
    passed.add(at)
    const above = document.get(at)
    if (!above) throw new ChangeError('missing', field, 'There is no such placement to hang it from.')
    at = above.parentId
  }
}
