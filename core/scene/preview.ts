import { Matrix4 } from 'three'
import { isArrangement } from '../arrange/arrangement'
import type { PlacedCopies } from '../arrange/place-copies'
import type { Dealt } from '../arrange/scatter/deal'
import { carriedScatters } from './carried'
import { copyOf } from './copy-id'
import { withExceptions } from './copies'
import type { Arranged } from './expand'
import type { LevelView } from './level-view'
import type { Operation, Placement } from '../level/schema'
import { localMatrix } from '../math/transform'

/**
 * Where everything would stand that operations on transforms move, without writing them: the world matrix of each
 * placement they touch and of all below. The work grows with those, not with the level.
 *
 * @returns by id; for new placements as well
 */
export function previewMatrices(level: LevelView, operations: readonly Operation[]): Map<string, Matrix4> {
  const records = new Map<string, Placement>()
  for (const operation of operations) {
    if (operation.do === 'put')
      records.set(operation.id, {
        ...(records.get(operation.id) ?? level.get(operation.id))!,
        id: operation.id,
        ...operation.fields,
      })
  }
  const matrices = new Map<string, Matrix4>()
  const recordOf = (id: string) => records.get(id) ?? level.need(id)
  // Of what stays where it is, how it stands now; of what moves, worked out from the top downwards.
  const stays = new Set<string>()
  const place = (id: string) => {
    const way: string[] = []
    let moved = 0
    for (let at: string | null = id; at !== null && !matrices.has(at) && !stays.has(at); at = recordOf(at).parentId) {
      way.push(at)
      if (records.has(at)) moved = way.length
    }
    const above = way.length > 0 ? recordOf(way.at(-1)!).parentId : null
    // Below something that moves all of it does; else only from the topmost that is touched.
    const moving = above !== null && matrices.has(above) ? way.length : moved
    for (const at of way.splice(moving)) stays.add(at)
    for (const at of way.reverse()) {
      const record = recordOf(at)
      const matrix = localMatrix(record, new Matrix4())
      if (record.parentId !== null)
        matrix.premultiply(matrices.get(record.parentId) ?? level.worldMatrix(record.parentId))
      matrices.set(at, matrix)
    }
  }
  for (const id of records.keys()) {
    place(id)
    if (level.hasChildren(id)) for (const below of level.subtree(id)) place(below)
  }
  return matrices
}

/**
 * The arrangements that operations would change or make, by id: what one copy has of its own, a rule, sources that come
 * to one.
 */
export function previewArranged(level: LevelView, operations: readonly Operation[]): Map<string, Arranged> {
  const found = new Map<string, Arranged>()
  const comers = new Map<string, string[]>()
  for (const operation of withExceptions(level, operations)) {
    if (operation.do !== 'put') continue
    const { own, parentId } = operation.fields
    if (parentId) comers.set(parentId, [...(comers.get(parentId) ?? []), operation.id])
    if (own && isArrangement(own))
      found.set(operation.id, {
        own,
        sources: level.arrangementIds.has(operation.id) ? level.children(operation.id) : [],
      })
  }
  for (const [id, arranged] of found)
    found.set(id, { ...arranged, sources: [...arranged.sources, ...(comers.get(id) ?? [])] })
  return found
}

/**
 * Where things and copies would stand after operations on transforms and rules, each worked out when it is asked for.
 */
export class PreviewedPlaces {
  private readonly matrices: ReadonlyMap<string, Matrix4>
  private readonly dealt: ReadonlyMap<string, Dealt>
  private readonly arranged: ReadonlyMap<string, Arranged>
  private readonly placed = new Map<string, PlacedCopies | null>()
  private readonly ways = new Map<string, Matrix4>()

  constructor(
    private readonly level: LevelView,
    operations: readonly Operation[],
  ) {
    const moved = previewMatrices(level, operations)
    const carried = carriedScatters(level, moved)
    this.matrices = new Map([...moved, ...carried.matrices])
    this.dealt = carried.dealt
    this.arranged = previewArranged(level, operations)
  }

  /** Where a thing or a copy would stand, in the world; a copy that there would be no more stays where it is. */
  readonly matrixOf = (id: string): Matrix4 =>
    this.matrices.get(id) ?? this.copyMatrix(id) ?? this.level.worldMatrix(id)

  /** The same for something that a thing or one of its copies shows where it stands now. */
  shownAs<T extends { id: string; copy?: string; readonly matrix: Matrix4 }>(shown: T): T {
    const id = shown.copy ?? shown.id
    const matrix = this.matrixOf(id)
    if (matrix === this.level.worldMatrix(id)) return shown
    return { ...shown, matrix: this.way(id, matrix).clone().multiply(shown.matrix) }
  }

  /** From where a thing is to where it would be. */
  private way(id: string, to: Matrix4): Matrix4 {
    let way = this.ways.get(id)
    if (!way) this.ways.set(id, (way = this.level.worldMatrix(id).clone().invert().premultiply(to)))
    return way
  }

  private copyMatrix(id: string): Matrix4 | null {
    const arrangementId = copyOf(id)?.arrangementId
    const now = arrangementId === undefined ? undefined : this.level.copy(id)
    if (arrangementId === undefined || !now) return null
    const moved = this.matrices.get(arrangementId)
    const toWorld = moved ?? this.level.worldMatrix(arrangementId)
    const other = this.arranged.get(arrangementId)
    const dealt = this.dealt.get(arrangementId)
    // Only where the ground has a say, or the rule is another, do copies stand otherwise in the arrangement's axes.
    if (!other && !dealt && !(moved && this.level.hugsGround(arrangementId)))
      return moved ? this.way(arrangementId, moved).clone().multiply(this.level.worldMatrix(id)) : null
    if (!this.placed.has(arrangementId))
      this.placed.set(
        arrangementId,
        this.level.place(arrangementId, other ?? this.level.arranged(arrangementId), toWorld, dealt),
      )
    const copies = this.placed.get(arrangementId)
    const index = copies?.keys.indexOf(copyOf(id)!.key) ?? null
    if (!copies || index === null) return null
    return new Matrix4()
      .fromArray(copies.ruled, index * 16)
      .multiply(localMatrix(copies.numbersOf(index, now.source), new Matrix4()))
      .premultiply(toWorld)
  }
}
