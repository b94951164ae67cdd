import { Matrix4 } from 'three'
import { isBentKey } from '../arrange/path/bent-key'
import { definitionOf } from '../arrange/rules'
import { createPlacement, lastOrder } from '../level/create'
import { KINDS } from '../level/kinds'
import type { Operation, Placement, PlacementFields } from '../level/schema'
import type { Reparenting } from '../level/tree'
import { decompose, isSheared, localMatrix } from '../math/transform'
import { copyMatrix, withExceptions } from '../scene/copies'
import { copyId, copyOf } from '../scene/copy-id'
import type { ShapeCopies } from '../scene/expand'
import type { LevelView } from '../scene/level-view'
import { asName } from '../units/text'
import { duplicate } from './duplicate'

/** The part that has the mesh of a bent shape. */
export type PartOf = (bentShape: string) => string

const noPart: PartOf = shape => {
  throw new RangeError(`there is no part for ${shape}`)
}

/**
 * The bent shapes that copies show, each of which has to become a part before they can be released.
 *
 * @param id of an arrangement or a copy
 */
export function bentShapesOf(level: LevelView, id: string): string[] {
  return bentOf(level, id).map(({ shape }) => shape)
}

function bentOf(level: LevelView, id: string): ShapeCopies[] {
  const named = copyOf(id)
  const arrangementId = named?.arrangementId ?? id
  const { rule } = level.arranged(arrangementId).own
  const { bentAlong, keys } = definitionOf(rule)
  if (!bentAlong(rule)) return []
  const index = named && keys(rule).indexOf(named.key)
  return level
    .shapes(arrangementId)
    .filter(({ shape, indices }) => isBentKey(shape) && (index === null || indices[0] === index))
}

/**
 * The operations that turn an arrangement's copies into ordinary placements in a group in its place. They stand exactly
 * where the copies stood, but for those that are named as skewed; instances go on sharing their parts and blocks.
 * Sources that the rule keeps stay as they are, beside their copies.
 *
 * @param newId makes an id for each
 * @param partOf needed for bent pieces alone
 */
export function release(level: LevelView, id: string, newId: () => string, partOf: PartOf = noPart): Reparenting {
  const { own, sources } = level.arranged(id)
  const operations: Operation[] = [{ do: 'put', id, fields: { kind: 'group', own: {} } }]
  const skewed: string[] = []
  const { keepsSources } = definitionOf(own.rule)
  const copies = level.copies(id)
  if (!copies) return { operations, skewed }
  const copied = { made: [] as ReadonlyMap<string, string>[], replaced: new Map<string, string>() }
  const put = (source: Placement, index: number, order: number) => {
    const place = copyMatrix({ copies, index, source })
    const { operations: made, tops, bySource } = duplicate(level, [source.id], 'instance', newId, AS_THEY_ARE)
    copied.made.push(bySource)
    if (!keepsSources) copied.replaced.set(copyId(id, copies.keys.keyAt(index)), tops[0]!)
    const numbers = decompose(place, source.pivot)
    if (isSheared(place)) skewed.push(keepsSources ? source.id : copyId(id, copies.keys.keyAt(index)))
    for (const operation of made) {
      operations.push(
        operation.do !== 'put' || operation.id !== tops[0]
          ? operation
          : {
              ...operation,
              fields: { ...operation.fields, ...numbers, order, name: asName(`${source.name} ${order + 1}`) },
            },
      )
    }
  }
  if (keepsSources) {
    sources.forEach((source, i) => put(level.need(source), 0, sources.length + i))
    return { operations, skewed, copied }
  }
  const bent = bentOf(level, id)
  const bentCopies = new Set(bent.map(({ indices }) => indices[0]!))
  for (let i = 0; i < copies.keys.count; i++) {
    const source = copies.sourceOf(i)
    if (source >= 0 && !bentCopies.has(i)) put(level.need(sources[source]!), i, i)
  }
  for (const {
    shape,
    matrices,
    indices: [index = 0],
  } of bent) {
    const name = asName(`${level.need(sources[copies.sourceOf(index)]!).name} ${index + 1}`)
    operations.push(
      putBent(newId(), partOf(shape), new Matrix4().fromArray(matrices), { parentId: id, order: index, name }),
    )
  }
  for (const index of bentCopies)
    for (const operation of putUnbent(level, id, index, new Matrix4(), id, newId).operations) operations.push(operation)
  const gone = sources.flatMap(source => level.subtree(source))
  return {
    operations: [...operations, ...gone.toReversed().map((each): Operation => ({ do: 'remove', id: each }))],
    skewed,
    copied,
  }
}

/** What is released gets its name from its number among the copies. */
const AS_THEY_ARE = { like: (name: string) => name }

function putBent(id: string, partId: string, place: Matrix4, fields: Partial<PlacementFields>): Operation {
  const { id: _id, ...all } = createPlacement({
    id,
    name: '',
    kind: 'part',
    partId,
    ...decompose(place, [0, 0, 0]),
    ...fields,
  })
  return { do: 'put', id, fields: all }
}

/**
 * What of one bent copy is not bent: the lights, cameras and markers below its source, and the arrangements with all
 * that is theirs.
 *
 * @param toParent from the arrangement's axes to those of what they are to hang from
 */
function putUnbent(
  level: LevelView,
  id: string,
  index: number,
  toParent: Matrix4,
  parentId: string | null,
  newId: () => string,
): { operations: Operation[]; tops: string[] } {
  const { sources } = level.arranged(id)
  const copies = level.copies(id)!
  const source = level.need(sources[copies.sourceOf(index)]!)
  // From where the source stands to where the copy does.
  const asCopy = toParent
    .clone()
    .multiply(copyMatrix({ copies, index, source }))
    .multiply(level.worldMatrix(source.id).clone().invert())
  const found: { operations: Operation[]; tops: string[] } = { operations: [], tops: [] }
  const waiting = [source.id]
  for (let at = waiting.pop(); at !== undefined; at = waiting.pop()) {
    const placement = level.need(at)
    if (placement.hidden) continue
    const isArrangement = level.arrangementIds.has(at)
    if (isArrangement || KINDS[placement.kind].isMark) {
      const place = {
        ...decompose(asCopy.clone().multiply(level.worldMatrix(at)), placement.pivot),
        parentId,
        order: index,
        name: asName(`${placement.name} ${index + 1}`),
      }
      const {
        operations,
        tops: [top = ''],
      } = duplicate(level, [at], 'instance', newId, AS_THEY_ARE)
      found.tops.push(top)
      // What hangs below a mark and has a shape is bent, and so is there already.
      for (const operation of operations) {
        if (operation.do === 'put' && operation.id === top)
          found.operations.push({ ...operation, fields: { ...operation.fields, ...place } })
        else if (isArrangement) found.operations.push(operation)
      }
    }
    if (!isArrangement) for (const child of level.children(at)) waiting.push(child)
  }
  return found
}

/**
 * The operations that turn copies into ordinary placements beside their arrangements, which leave them out from then
 * on; into several each where a bent one has several shapes.
 *
 * @param ids of the copies
 * @returns the operations, the ids of what they have become, and the copies that cannot keep their shapes there
 */
export function releaseCopies(
  level: LevelView,
  ids: readonly string[],
  newId: () => string,
  partOf: PartOf = noPart,
): Reparenting & { made: string[] } {
  const each = ids.map(id => putBeside(level, id, newId, partOf))
  const leaveOut = withExceptions(
    level,
    ids.map(id => ({ do: 'remove', id })),
  )
  return {
    made: each.flatMap(({ made }) => made),
    operations: [...each.flatMap(({ operations }) => operations), ...leaveOut],
    skewed: each.flatMap(({ skewed }) => skewed),
    copied: {
      made: each.flatMap(({ copied }) => copied?.made ?? []),
      replaced: new Map(each.flatMap(({ copied }) => [...(copied?.replaced ?? [])])),
    },
  }
}

function putBeside(
  level: LevelView,
  id: string,
  newId: () => string,
  partOf: PartOf,
): Reparenting & { made: string[] } {
  const { arrangementId } = copyOf(id)!
  const { parentId } = level.need(arrangementId)
  const toParent = localMatrix(level.need(arrangementId), new Matrix4())
  const bent = bentOf(level, id)
  if (bent.length > 0) {
    const puts = bent.map(({ shape, matrices }) =>
      putBent(newId(), partOf(shape), toParent.clone().multiply(new Matrix4().fromArray(matrices)), {
        parentId,
        order: lastOrder(level, parentId),
        name: level.need(id).name,
      }),
    )
    const unbent = putUnbent(level, arrangementId, bent[0]!.indices[0]!, toParent, parentId, newId)
    return {
      made: [...puts.map(put => put.id), ...unbent.tops],
      operations: [...puts, ...unbent.operations],
      skewed: [],
    }
  }
  const { operations, tops, bySource } = duplicate(level, [id], 'instance', newId, {
    like: () => asName(level.need(id).name),
  })
  const copy = level.copy(id)!
  const place = toParent.multiply(copyMatrix(copy))
  const numbers = decompose(place, copy.source.pivot)
  const skewed = isSheared(place) ? [id] : []
  const puts = operations.map(
    (operation): Operation =>
      operation.do === 'put' && operation.id === tops[0]
        ? { ...operation, fields: { ...operation.fields, ...numbers } }
        : operation,
  )
  return { made: tops, operations: puts, skewed, copied: { made: [bySource], replaced: new Map([[id, tops[0]!]]) } }
}
