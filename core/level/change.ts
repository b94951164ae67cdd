import type { z } from 'zod'
import type { LevelDocument } from './document'
import type { Change, Operation, Placement, PlacementFields } from './schema'
import { placementSchema } from './schema'

/** Why a change cannot be applied, with the place in it that is wrong. */
export class ChangeError extends Error {
  override name = 'ChangeError'
  /** @param field where in the change, such as `operations.0.fields.parentId` */
  constructor(readonly code: ChangeErrorCode, readonly field: string, message: string) {
    super(message)
  }
}

export type ChangeErrorCode = 'incomplete' | 'missing' | 'cycle' | 'has-children' | 'unknown-part'

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

/** The records a change needs to be there without touching them: the parents it hangs things from. */
export function parentsNeeded(operations: readonly Operation[]): Set<string> {
  const needed = new Set<string>()
  for (const operation of operations) {
    if (operation.do === 'put' && operation.fields.parentId) needed.add(operation.fields.parentId)
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
  const needed = parentsNeeded(needing)
  return removing.some(operation => operation.do === 'remove' && needed.has(operation.id))
}

function applyOperation(document: LevelDocument, operation: Operation, path: string): Operation {
  const before = document.get(operation.id)
  if (operation.do === 'remove') {
    if (!before) throw new ChangeError('missing', `${path}.id`, 'There is no such placement to remove.')
    document.erase(operation.id)
    return putAll(before)
  }
  if (!before) {
    document.write(complete({ id: operation.id, ...operation.fields }, path))
    return { do: 'remove', id: operation.id }
  }
  document.write(complete({ ...before, ...operation.fields }, path))
  const fields = Object.fromEntries(Object.keys(operation.fields).map(key => [key, before[key as keyof PlacementFields]]))
  return { do: 'put', id: operation.id, fields: fields as Partial<PlacementFields> }
}

function putAll({ id, ...fields }: Placement): Operation {
  return { do: 'put', id, fields }
}

function complete(record: z.input<typeof placementSchema> | object, path: string): Placement {
  const parsed = placementSchema.safeParse(record)
  if (parsed.success) return parsed.data
  const issue = parsed.error.issues[0]!
  throw new ChangeError('incomplete', [path, 'fields', ...issue.path].join('.'), `${issue.path.join('.')}: ${issue.message}`)
}

function checkTree(document: LevelDocument, operations: readonly Operation[], hasPart: (id: string) => boolean): void {
  operations.forEach((operation, index) => {
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
    if (operation.do === 'put' && operation.fields.parentId) checkParent(document, placement, `operations.${index}.fields.parentId`)
  })
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
